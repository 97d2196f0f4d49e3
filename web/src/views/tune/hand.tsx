import styled from "styled-components";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { ink, phone } from "../../theme/theme";
import { labelOf, stringOf } from "../../words/labels";
import { type Bench, type Command, fretToSet, wantsPushing } from "./commands";
import type { Hold } from "./keys";
import { TurnPad } from "./layout";
import { holding, pressing } from "./presses";

const Extras = styled.div`
  grid-column: 1 / -1;
  display: flex;
  gap: 0.5rem;
  button {
    flex: 1;
    padding: 0.4rem 0.6rem;
  }
  &:empty,
  &[hidden] {
    display: none;
  }
  ${phone} {
    grid-column: span 2;
    gap: 0.3rem;
    button {
      padding: 0.2rem;
      font-size: 0.8125rem;
      line-height: 1.1;
      justify-content: center;
      text-align: center;
    }
  }
  button[aria-pressed="true"] {
    border-color: ${ink.text};
    border-width: 2.5px;
  }
`;
const SIZES = ["small", "large", "wind"] as const;

export type HandProps = {
  bench: Bench;
  by: (id: string) => Command;
  hold: Hold;
  isLive: boolean;
};

/** The hand at the peg: tighten and loosen, how far a turn goes, peg or fine tuner. */
export function Hand({ bench, by, hold, isLive }: HandProps) {
  const { page, scene, selected, playing } = bench;
  const label = labelOf(page, selected);
  const string = stringOf(page, selected);
  const broken = scene.strings[selected - 1]?.broken ?? false;
  const fine = playing.fine && string.fine_turns !== null;
  const turning = (id: string) => holding(by(id), hold, isLive && !broken);
  const press = (id: string) => pressing(by(id), isLive);
  const setting = fretToSet(bench.stage);
  return (
    <TurnPad data-group="hand">
      {setting > 0 ? (
        <>
          <Button weight="solid" size="tall" data-turn {...turning("loosen")}>
            {by("loosen").words}
          </Button>
          <Button weight="solid" size="tall" data-turn {...turning("tighten")}>
            {by("tighten").words}
          </Button>
        </>
      ) : broken ? (
        <>
          <Button size="tall" {...press("leave-off")}>
            {scene.strings[selected - 1]?.off ? "Left off" : by("leave-off").words}
          </Button>
          <Button weight="solid" size="tall" {...press("replace")}>
            {by("replace").words}
          </Button>
        </>
      ) : (
        <>
          <Button weight="solid" size="tall" data-turn {...turning("loosen")}>
            Loosen {label}
          </Button>
          <Button weight="solid" size="tall" data-turn {...turning("tighten")}>
            Tighten {label}
          </Button>
        </>
      )}
      <Choice
        label={setting > 0 ? "Size of a slide" : "Size of a turn"}
        value={SIZES[playing.size]}
        options={[
          { id: "small", words: "Fine" },
          { id: "large", words: "Coarse", hint: playing.size === 0 ? "Shift" : undefined },
          {
            id: "wind",
            words: setting > 0 ? "Far" : "Wind",
            hint: playing.size === 1 ? "Shift" : undefined,
          },
        ]}
        onChoose={(size) => bench.play({ size: SIZES.indexOf(size) as 0 | 1 | 2 })}
      />
      <Extras hidden={setting > 0}>
        {string.fine_turns ? (
          <Button {...press("fine")} aria-pressed={fine}>
            Fine tuner
          </Button>
        ) : null}
        {wantsPushing(page, selected) && !fine ? (
          <Button {...press("push")} aria-pressed={playing.pushed}>
            Push in
          </Button>
        ) : null}
        <Button {...press("settle")}>Pull to settle</Button>
        {scene.lying === null ? null : (
          <Button {...press("lay")}>{scene.lying ? "Take it up" : "Lay it down"}</Button>
        )}
      </Extras>
    </TurnPad>
  );
}
