// A first string: two strings, six things to press, and a teacher's words. All else comes by More.

import { useEffect, useState } from "react";
import styled from "styled-components";
import { Button } from "../../parts/button";
import { InstrumentPicture, playedString } from "../../parts/instrument";
import { Level } from "../../parts/level";
import { Water } from "../../picture/water";
import type { WaterLog } from "../../picture/water-log";
import { ink, phone } from "../../theme/theme";
import { labelOf } from "../../words/labels";
import type { OnBench } from "./bench-view";
import type { Bench } from "./commands";
import { type Hold, keyWords } from "./keys";
import { AfterIt } from "./music";
import { Reading } from "./reading";
import { Warnings } from "./over-water";
import { commandOf, holding, pressing } from "./presses";

const Screen = styled.main`
  display: grid;
  min-width: 0;
  height: 100dvh;
  min-height: 36rem;
  grid-template-rows: auto auto minmax(9rem, 1fr) auto auto;
  grid-template-columns: minmax(0, 1fr);
  background: ${ink.sheet};
  ${phone} {
    height: 100dvh;
    min-height: 34rem;
  }
`;
const Bar = styled.div`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 1rem;
  min-height: 56px;
  padding: 0 1.75rem;
  border-bottom: 1px solid ${ink.line};
  font-weight: 750;
  font-size: 1.25rem;
  & > div {
    display: flex;
    align-items: center;
    gap: 1.25rem;
    font-size: 1rem;
    font-weight: 400;
  }
  ${phone} {
    padding: 0 0.9rem;
  }
`;
const Words = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0.35rem 2rem;
  padding: 1.5rem 4rem 0;
  h1 {
    font-size: 2.25rem;
  }
  p {
    font-size: 1.1875rem;
    color: ${ink.quiet};
    max-width: 46rem;
  }
  [data-reading] strong {
    font-size: 3.75rem;
    line-height: 1;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr);
    padding: 0.8rem 0.9rem 0;
    h1 {
      font-size: 1.625rem;
    }
    p {
      font-size: 1.0625rem;
      line-height: 1.3;
    }
    [data-reading] {
      min-height: 3.4rem;
    }
    [data-reading] strong {
      font-size: 2.75rem;
    }
  }
`;
/** One line that a teacher would say; its room is kept. */
const Say = styled.p`
  min-height: 1.6em;
  && {
    color: ${ink.text};
    font-weight: 600;
  }
`;
const Basin = styled.section`
  position: relative;
  min-height: 0;
`;
const Over = styled.div`
  position: absolute;
  inset: 0.5rem 1rem auto;
  display: grid;
  justify-items: center;
  gap: 0.4rem;
`;
const Strings = styled.section`
  --under: ${ink.wood};
  background: ${ink.wood};
  border-top: 1.5px solid ${ink.text};
  padding: 0.75rem 1.75rem;
  min-width: 0;
  ${phone} {
    padding: 0.4rem 0.4rem;
  }
`;
const Hands = styled.section`
  display: grid;
  grid-template-columns: 1.4fr 1fr 1fr minmax(2rem, 0.5fr) 0.8fr 0.8fr;
  gap: 1rem;
  padding: 1.25rem 4rem 1.75rem;
  button {
    min-height: 84px;
    justify-content: center;
    font-size: 1.375rem;
  }
  & > [data-one] {
    grid-column: 5 / span 2;
  }
  & > [data-first] {
    grid-column: 5;
  }
  ${phone} {
    grid-template-columns: 1fr 1fr;
    gap: 0.5rem;
    padding: 0.6rem 0.9rem 0.9rem;
    button {
      min-height: 64px;
      font-size: 1.1875rem;
    }
    & > :first-child,
    & > [data-one] {
      grid-column: 1 / -1;
    }
    & > [data-first] {
      grid-column: 1;
    }
  }
`;

export type GuidedProps = OnBench & {
  attempt: string;
  onMore: () => void;
  /** On with the next string, or to the result. */
  onOn: (next: number | null) => void;
};

/** The working screen of a guided string. */
export function Guided(props: GuidedProps) {
  const { bench, commands, hold, log, link } = props;
  const { page, scene, stage } = bench;
  const isLive = link === "live";
  const own = labelOf(page, stage?.own.string ?? null);
  const by = (id: string) => commandOf(commands, id);
  const isDone = scene.answer?.verdict === "in_tune";
  const isHeld = useHeld(hold);
  // as a hand does: larger turns while it wobbles, small ones once it hardly does
  const { play } = bench;
  const size = scene.pair?.ripple === "fast" || scene.pair?.ripple === "slow" ? 1 : 0;
  const isHeard = scene.pair !== null;
  useEffect(() => {
    if (isHeard) play({ size });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- `play` is a new function each time
  }, [isHeard, size]);
  const asks = scene.asks_pace && !isHeld;
  const pair = stage ? `${labelOf(page, stage.other.string)} and ${own}` : "";
  const shownStrings = page.strings
    .filter((one) => isDone || stage?.strings.includes(one.number))
    .toSorted((a, b) => a.number - b.number)
    .map((one) => playedString(one, ""));

  return (
    <Screen tabIndex={-1} data-guided="on">
      <Bar>
        <span>Meldrin</span>
        <div>
          <Level />
          {asks ? null : <Button onPress={props.onMore}>More</Button>}
        </div>
      </Bar>
      <Words>
        <div>
          <h1>{isDone ? "In tune." : "Make the wobble stop."}</h1>
          {isDone ? null : <p>{page.guided?.pair}</p>}
          <Say role="status">{sayWords(bench, log, asks)}</Say>
        </div>
        {isDone ? null : (
          <Reading
            scene={scene}
            log={log}
            label={own}
            pair={pair}
            shown={props.shown}
            onTuner={() => bench.open("tuner")}
          />
        )}
      </Words>
      <Basin aria-label="What sounds">
        {isDone ? (
          <AfterIt
            attempt={props.attempt}
            hush={() => bench.act({ kind: "mute_all" })}
            next={page.guided?.next_string ?? null}
            nextLabel={labelOf(page, page.guided?.next_string ?? stage?.own.string ?? null)}
            onOn={props.onOn}
          />
        ) : (
          <Water log={log} aid={scene.aid} />
        )}
        <Over>
          <Warnings {...props} />
        </Over>
      </Basin>
      <Strings aria-label="The strings">
        <InstrumentPicture
          strings={shownStrings}
          frets={page.frets}
          now={(number) => scene.strings[number - 1] ?? null}
          strikes={bench.strikes}
          selected={isDone ? null : (stage?.own.string ?? null)}
          partner={isDone ? null : (stage?.other.string ?? null)}
          isDisabled={!isLive}
          onPlay={isDone ? (number, pressedAt) => playOpen(bench, number, pressedAt) : undefined}
        />
      </Strings>
      {isDone ? null : (
        <Hands aria-label="What you do">
          <Button weight="solid" size="tall" {...pressing(by("both"), isLive)}>
            Play both
          </Button>
          <Button size="tall" {...holding(by("loosen"), hold, isLive)}>
            Loosen
          </Button>
          <Button size="tall" {...holding(by("tighten"), hold, isLive)}>
            Tighten
          </Button>
          {asks ? (
            <>
              <Button
                data-first
                isDisabled={!isLive}
                onPress={() => bench.act({ kind: "pace", said: "slower" })}
              >
                Slower
              </Button>
              <Button
                isDisabled={!isLive}
                onPress={() => bench.act({ kind: "pace", said: "faster" })}
              >
                Faster
              </Button>
            </>
          ) : (
            <Button
              data-one
              hint={keyWords(by("in-tune").key)}
              isDisabled={!isLive || !scene.may_judge}
              onPress={() => bench.act({ kind: "judge", verdict: "in_tune", cents: 0 })}
            >
              In tune
            </Button>
          )}
        </Hands>
      )}
    </Screen>
  );
}

/** Played freely: the finger that the pair needed is lifted first. */
function playOpen({ scene, act }: Bench, number: number, pressedAt: number): void {
  if ((scene.strings[number - 1]?.fret ?? 0) > 0) act({ kind: "stop", string: number, fret: 0 });
  act({ kind: "play", strings: [number], reference: false }, pressedAt);
}

/** Whether a turning press is being held: nothing changes places under a finger. */
function useHeld(hold: Hold): boolean {
  const [held, set] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => set(hold.isOn), 150);
    return () => clearInterval(timer);
  }, [hold]);
  return held;
}

/** The one line: a question, what a teacher says, or what to do first. */
function sayWords({ scene, page, stage }: Bench, log: WaterLog, asks: boolean): string {
  if (scene.answer) {
    return scene.answer.verdict === "in_tune"
      ? scene.answer.sentence.replace(/^In tune\. /, "")
      : scene.answer.sentence;
  }
  if (asks) return "Is the wobble slower now, or faster?";
  if (scene.guide) return scene.guide;
  const turned = stage !== null && (scene.strings[(stage.own.string ?? 1) - 1]?.moves ?? 0) > 0;
  if (turned) return "";
  if (log.samples.length === 0 && scene.pair === null) return "Play both, and listen.";
  return `Turn ${labelOf(page, stage?.own.string ?? null)} a little while they ring.`;
}
