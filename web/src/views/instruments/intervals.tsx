import styled from "styled-components";
import type { Instrument } from "../../api/client";
import { Button } from "../../parts/button";
import { Pick } from "../../parts/pick";
import { phone } from "../../theme/theme";
import { capital } from "../../words/formats";
import { named } from "../../words/notes";
import type { Asked } from "./asked";

const Row = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem 2rem;
  align-items: end;
  @media print {
    display: none;
  }
`;
const Pair = styled.div`
  display: grid;
  grid-template-columns: 9.5rem 9.5rem auto;
  gap: 0.5rem;
  align-items: end;
  ${phone} {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
`;

const MOST_INTERVALS = 3;
const LOW_FRETS = 4;

type IntervalsProps = {
  instrument: Instrument;
  piece: string;
  change: (c: Partial<Asked>) => void;
};

/** The intervals of the piece that are to be pure: two strings each, open or at a low fret. */
export function Intervals({ instrument, piece, change }: IntervalsProps) {
  const pairs = piece.split(",").filter(Boolean);
  const sides = instrument.strings
    .filter((string) => string.role === "playing")
    .flatMap((string) => {
      const frets = instrument.frets > 0 && instrument.fretting === "fixed" ? LOW_FRETS : 0;
      return Array.from({ length: frets + 1 }, (_, fret) => ({
        id: fret ? `${string.number}:${fret}` : String(string.number),
        words: `${capital(named(string.label))}, ${fret ? `fret ${fret}` : "open"}`,
      }));
    });
  const set = (index: number, pair: string) =>
    change({ piece: pairs.with(index, pair).filter(Boolean).join(",") });
  return (
    <Row>
      {pairs.map((pair, index) => {
        const [one = "", other = ""] = pair.split("-");
        return (
          <Pair key={pair}>
            <Pick
              label={`Pure interval ${index + 1}`}
              value={one}
              options={sides}
              onPick={(side) => set(index, `${side}-${other}`)}
            />
            <Pick
              label="with"
              value={other}
              options={sides}
              onPick={(side) => set(index, `${one}-${side}`)}
            />
            {pairs.length > 1 ? <Button onPress={() => set(index, "")}>Leave out</Button> : null}
          </Pair>
        );
      })}
      {pairs.length < MOST_INTERVALS ? (
        <Button
          onPress={() => change({ piece: [...pairs, nextPair(instrument, pairs)].join(",") })}
        >
          One more interval
        </Button>
      ) : null}
    </Row>
  );
}

/** Two neighbouring strings that are not yet in the list, thirds and wide ones alike. */
export function nextPair(instrument: Instrument, taken: readonly string[]): string {
  const numbers = instrument.strings
    .filter((string) => string.role === "playing")
    .map((string) => string.number);
  const pairs = numbers.slice(1).map((number, at) => `${number}-${numbers[at]}`);
  return pairs.find((pair) => !taken.includes(pair)) ?? pairs[0] ?? "2-1";
}
