import styled from "styled-components";
import type { Instrument } from "../../api/client";
import { Amount, Entry } from "../../parts/entry";
import { Pick } from "../../parts/pick";
import { tablet } from "../../theme/theme";
import type { Asked, Temperament as Kind } from "./asked";
import { nextPair } from "./intervals";
import { methodOf } from "../../words/names";

const KINDS: readonly { id: Kind; words: string; about: string }[] = [
  { id: "own", words: "The method’s own", about: "What this method gives by itself" },
  { id: "equal", words: "Equal", about: "Every semitone the same, as on a piano or by frets" },
  {
    id: "fifths",
    words: "Fifths made wider or narrower",
    about: "0 is pure; a piano’s are -1.955",
  },
  { id: "just", words: "Just, over a tonic", about: "Pure intervals in one key" },
  { id: "sweetened", words: "Sweetened for a key", about: "Part of the way from equal to just" },
  { id: "piece", words: "Sweetened for this piece", about: "Two or three intervals made pure" },
  { id: "custom", words: "Cents of your own", about: "String by string, with your reason" },
];
const TONICS = ["C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"];

const Row = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(11rem, 1fr));
  gap: 0.75rem 1rem;
  align-items: end;
  ${tablet} {
    grid-template-columns: repeat(auto-fit, minmax(9rem, 1fr));
  }
`;

type Props = { instrument: Instrument; asked: Asked; change: (c: Partial<Asked>) => void };

/** Where the notes are wanted, and how much. */
export function Temperament({ instrument, asked, change }: Props) {
  const overTonic =
    asked.temperament === "just" ||
    asked.temperament === "sweetened" ||
    methodOf(asked.method)?.has_tonic;
  return (
    <Row>
      <Pick
        label="Temperament"
        value={asked.temperament}
        options={KINDS}
        onPick={(temperament) =>
          change({
            temperament,
            ...(temperament === "just" || temperament === "sweetened"
              ? { tonic: asked.tonic || "D" }
              : {}),
            ...(temperament === "piece" ? { piece: asked.piece || nextPair(instrument, []) } : {}),
          })
        }
      />
      {overTonic ? (
        <Pick
          label="Tonic"
          value={asked.tonic || "auto"}
          options={[
            ...(asked.temperament === "just" || asked.temperament === "sweetened"
              ? []
              : [{ id: "auto", words: "The tuning’s own" }]),
            ...TONICS.map((note) => ({ id: note, words: note })),
          ]}
          onPick={(tonic) => change({ tonic: tonic === "auto" ? "" : tonic })}
        />
      ) : null}
      {asked.temperament === "fifths" ? (
        <Amount
          label="Wider than pure, in cents"
          value={asked.fifth_cents}
          low={-10}
          high={10}
          step={0.1}
          onEnter={(fifth_cents) => change({ fifth_cents })}
        />
      ) : null}
      {asked.temperament === "sweetened" ? (
        <Amount
          label="How far towards just, in %"
          value={Math.round(asked.share * 100)}
          low={0}
          high={100}
          step={1}
          onEnter={(percent) => change({ share: percent / 100 })}
        />
      ) : null}
      {asked.temperament === "custom" ? (
        <>
          <Entry
            label="Cents by string"
            value={asked.offsets}
            placeholder={`${instrument.strings.length}:-2, 1:1.5`}
            onEnter={(offsets) => change({ offsets })}
          />
          <Entry
            label="What for"
            value={asked.reason}
            placeholder="the songs in G"
            onEnter={(reason) => change({ reason })}
          />
        </>
      ) : null}
    </Row>
  );
}
