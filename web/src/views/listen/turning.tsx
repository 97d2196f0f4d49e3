// The peg of a drill in which a string is turned: tighter above, looser below, or side by side.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { phone } from "../../theme/theme";

const Pegs = styled.div`
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 0.5rem;
  width: min(34rem, 100%);
  button {
    min-height: 52px;
  }
  ${phone} {
    button {
      min-height: 48px;
    }
  }
`;

type Props = {
  turn: Schemas["DrillTurn"];
  /** So many up it has been turned. */
  steps: number;
  isDisabled: boolean;
  onTurn: (steps: number) => void;
};

export type Turn = { steps: number; words: string; key: string; shown: string };

/** The turns there are: up above down, or, where both stand in one row, to the right of it. */
export function turnsOf({ sizes }: Schemas["DrillTurn"]): Turn[] {
  return (sizes.length === 1 ? [-1, 1] : [1, -1]).flatMap((side) =>
    sizes.map((size, at) => {
      const [does, arrow] = side > 0 ? ["Tighten", "ArrowUp"] : ["Loosen", "ArrowDown"];
      const shown = side > 0 ? "↑" : "↓";
      return {
        steps: side * size,
        words: sizes.length === 1 ? does : at === 0 ? `${does} a little` : `${does} more`,
        key: at === 0 ? arrow : `Shift ${arrow}`,
        shown: at === 0 ? shown : `Shift ${shown}`,
      };
    }),
  );
}

export function Turning({ turn, steps, isDisabled, onTurn }: Props) {
  return (
    <Pegs role="group" aria-label="The peg of your string">
      {turnsOf(turn).map((one) => (
        <Button
          key={one.steps}
          hint={one.shown}
          isDisabled={isDisabled || Math.abs(steps + Math.sign(one.steps)) > turn.most}
          onPress={() => onTurn(one.steps)}
        >
          {one.words}
        </Button>
      ))}
    </Pegs>
  );
}
