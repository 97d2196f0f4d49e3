import { Button as AriaButton } from "react-aria-components";
import styled from "styled-components";
import { KeyHint } from "../../parts/key-hint";
import { ink, phone } from "../../theme/theme";
import type { Bench, Command } from "./commands";
import { keyWords } from "./keys";
import { Strings } from "./layout";

const Card = styled(AriaButton)`
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  justify-content: space-between;
  min-width: 0;
  overflow: hidden;
  min-height: 6.5rem;
  padding: 0.5rem 0.7rem;
  border: 1.5px solid ${ink.line};
  border-radius: 6px;
  background: ${ink.sheet};
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
  touch-action: manipulation;
  .note {
    font-size: 1.75rem;
    font-weight: 750;
    line-height: 1.1;
  }
  .note sub {
    font-size: 0.55em;
    font-weight: 600;
    vertical-align: -0.15em;
  }
  .state {
    font-size: 0.9375rem;
    color: ${ink.quiet};
    min-height: 1.4em;
  }
  .foot {
    display: flex;
    flex-wrap: wrap;
    width: 100%;
    justify-content: space-between;
    align-items: end;
    gap: 0.4rem;
  }
  &[data-hovered] {
    border-color: ${ink.text};
  }
  &[data-small] {
    min-height: 62px;
    padding: 0.25rem 0.4rem;
    .note {
      font-size: 1.25rem;
    }
    .state {
      font-size: 0.8125rem;
      line-height: 1.15;
    }
  }
  &[data-small][aria-pressed="true"] {
    padding: calc(0.25rem - 1.5px) calc(0.4rem - 1.5px);
  }
  &[aria-pressed="true"] {
    border: 3px solid ${ink.text};
    padding: calc(0.5rem - 1.5px) calc(0.7rem - 1.5px);
  }
  ${phone} {
    min-height: 58px;
    padding: 0.2rem 0.35rem;
    align-items: center;
    text-align: center;
    &[aria-pressed="true"] {
      padding: calc(0.2rem - 1.5px) calc(0.35rem - 1.5px);
    }
    .note {
      font-size: 1.25rem;
    }
    .state {
      font-size: 0.75rem;
      line-height: 1.2;
      min-height: 1.2em;
    }
    .foot {
      justify-content: center;
    }
  }
`;

const MOST_IN_A_ROW = 8;
const Unseen = styled.span`
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
`;

/** The strings from the lowest to the highest; the one whose peg is in the hand is framed. */
export function StringsRow({ bench, commands }: { bench: Bench; commands: Command[] }) {
  const { page, scene, selected } = bench;
  const many = page.strings.length > MOST_IN_A_ROW;
  const columns = many ? Math.ceil(page.strings.length / 2) : page.strings.length;
  return (
    <Strings role="group" aria-label="Which peg is in the hand" $columns={columns}>
      {page.strings.map((string) => {
        const now = scene.strings[string.number - 1];
        const key = commands.find((one) => one.id === `string-${string.number}`)?.key ?? "";
        const states = [
          now?.off ? "left off" : now?.broken ? "snapped" : null,
          now && now.fret > 0 && !now.touched ? `fret ${now.fret}` : null,
          now?.touched ? "touched" : null,
          now?.along ? "rings along" : null,
          string.fine_turns && Math.abs(now?.fine ?? 0) > 0.75
            ? `fine tuner nearly ${(now?.fine ?? 0) > 0 ? "in" : "out"}`
            : null,
          now?.stuck ? "peg sticks" : string.number === selected ? "turning" : null,
        ].filter((words) => words !== null);
        if (states.length === 0) {
          const step = page.stages.findIndex(
            (stage) => stage.kind === "step" && stage.own.string === string.number,
          );
          if (scene.judged.includes(step)) states.push("judged");
          else if (step >= 0 && !scene.visited.includes(step)) states.push("waits");
        }
        return (
          <Card
            key={string.number}
            preventFocusOnPress
            data-small={many ? "" : undefined}
            aria-pressed={string.number === selected}
            onPress={() => bench.choose(string.number)}
          >
            <span className="note">
              {string.note.slice(0, -1)}
              <sub>{string.note.slice(-1)}</sub>
            </span>
            <Unseen>
              {string.label}, string {string.written}
            </Unseen>
            {many ? (
              <span className="state">
                {states.length > 0 ? states.join(", ") : string.written}
              </span>
            ) : (
              <span className="foot">
                <span className="state">{states.join(", ")}</span>
                {key ? <KeyHint>{keyWords(key)}</KeyHint> : null}
              </span>
            )}
          </Card>
        );
      })}
    </Strings>
  );
}
