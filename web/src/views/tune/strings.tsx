// The instrument on the bench: what is drawn of it, and what is played by it.

import { useState } from "react";
import styled from "styled-components";
import { Choice } from "../../parts/choice";
import { InstrumentPicture, playedString } from "../../parts/instrument";
import { useMedia } from "../../parts/use-media";
import { PHONE } from "../../theme/theme";
import type { Bench, Command } from "./commands";
import { stringOf } from "../../words/labels";
import { fretToSet, lay, touches } from "./commands";
import { keyWords } from "./keys";

const TURNING = "turning";
const KINDS_HIGH = 56;
const Kinds = styled.div`
  display: flex;
  justify-content: flex-end;
  padding: 0 0.5rem;
`;

type Kind = "main" | "sympathetic";

export type StringsProps = { bench: Bench; commands: Command[]; isLive: boolean };

export function Strings({ bench, commands, isLive }: StringsProps) {
  const { page, scene, stage, selected, playing } = bench;
  const kindOf = (number: number): Kind =>
    page.strings.find((one) => one.number === number)?.role === "sympathetic"
      ? "sympathetic"
      : "main";
  const [looked, look] = useState<{ selected: number; kind: Kind } | null>(null);
  const kind = looked?.selected === selected ? looked.kind : kindOf(selected);
  const sympathetic = page.strings.some((one) => one.role === "sympathetic");
  const strings = page.strings
    .filter((one) => kindOf(one.number) === kind)
    .toSorted((a, b) => a.number - b.number)
    .map((one) =>
      playedString(
        one,
        keyWords(commands.find(({ id }) => id === `string-${one.number}`)?.key ?? ""),
      ),
    );
  const narrow = useMedia(PHONE);
  // where a fret is set, the finger stays behind it
  const finger = fretToSet(stage)
    ? {}
    : { onFinger: (number: number, fret: number) => lay(bench, number, fret) };
  // on a phone there is no room for what the picture shows
  const words = (number: number) => {
    const said = stateWords(bench, number);
    return narrow && said === TURNING ? "" : said;
  };
  const sides = [stage?.own.string, stage?.other.string];
  const partner = sides.find((one) => one !== undefined && one !== null && one !== selected);
  return (
    <>
      {sympathetic ? (
        <Kinds>
          <Choice
            label="Which strings"
            value={kind}
            options={[
              { id: "main", words: "Playing strings" },
              { id: "sympathetic", words: "Sympathetic strings" },
            ]}
            onChoose={(chosen) => look({ selected, kind: chosen })}
          />
        </Kinds>
      ) : null}
      <InstrumentPicture
        strings={strings}
        frets={kind === "sympathetic" ? null : page.frets}
        now={(number) => scene.strings[number - 1] ?? null}
        strikes={bench.strikes}
        selected={selected}
        fine={playing.fine}
        partner={partner ?? null}
        {...(stage
          ? { inPlay: [selected, ...sides].filter((one) => typeof one === "number") }
          : {})}
        touches={(number) => touches(bench, number)}
        words={words}
        isDisabled={!isLive}
        above={sympathetic ? KINDS_HIGH : 0}
        onPlay={(number, pressedAt) =>
          bench.act(
            {
              kind: "play",
              strings: [number],
              reference: false,
              strength: playing.strength,
              place: playing.place,
              way: playing.way,
            },
            pressedAt,
          )
        }
        onPeg={(number) => {
          bench.choose(number);
          bench.play({ fine: false });
        }}
        onFine={(number) => {
          bench.choose(number);
          bench.play({ fine: true });
        }}
        {...finger}
      />
    </>
  );
}

const PARTS: readonly [number, string][] = [
  [1 / 2, "half"],
  [1 / 3, "one third"],
  [1 / 4, "a quarter"],
  [1 / 5, "one fifth"],
];

/** What is said of a string beside it: what is the matter, where the finger is, or that its peg is in
 * the hand. */
function stateWords({ page, scene, selected }: Bench, number: number): string {
  const now = scene.strings[number - 1];
  if (!now) return "";
  if (now.off) return "left off";
  if (now.broken) return "snapped";
  if (now.slack) return "slack";
  if (now.fret > 0 && (now.touched || page.frets === 0)) {
    if (page.frets > 0) return `over ${Number(now.fret.toFixed(1))}`;
    const share = 1 - 2 ** (-now.fret / 12);
    const near = PARTS.find(([part]) => Math.abs(part - share) < 0.006);
    return near ? near[1] : `${(100 * share).toFixed(0)} %`;
  }
  if (now.fret > 0) {
    if (now.hard) return `fret ${now.fret}, hard`;
    // beside the bead of a fine tuner there is no room, and the finger has its number
    return stringOf(page, number).fine_turns === null ? `fret ${now.fret}` : "";
  }
  if (now.stuck) return "peg sticks";
  if (Math.abs(now.fine) > 0.75) return now.fine > 0 ? "nearly in" : "nearly out";
  if (now.along) return "rings along";
  return number === selected ? TURNING : "";
}
