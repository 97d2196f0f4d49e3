import { useState } from "react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { Choices } from "../../parts/layout";

const Rows = styled.div`
  display: grid;
  gap: 1rem;
  h3 {
    font-size: 1rem;
    margin-bottom: 0.35rem;
  }
`;

/** How the hand plays: kept from one sounding to the next. `size`: small, large or winding turns. */
export type Playing = {
  strength: number;
  place: number;
  way: NonNullable<Schemas["Play"]["way"]>;
  byProngs: boolean;
  size: 0 | 1 | 2;
  fine: boolean;
  pushed: boolean;
};

const USUAL: Playing = {
  strength: 0.7,
  place: 0.14,
  way: "usual",
  byProngs: false,
  size: 0,
  fine: false,
  pushed: true,
};
const STRENGTHS = { soft: 0.35, usual: 0.7, hard: 1 };
const PLACES = { bridge: 0.06, usual: 0.14, neck: 0.35 };

export function usePlaying(): [Playing, (changed: Partial<Playing>) => void] {
  const [playing, set] = useState(USUAL);
  return [playing, (changed) => set((before) => ({ ...before, ...changed }))];
}

function nearest<T extends string>(table: Record<T, number>, value: number): T {
  const entries = Object.entries(table) as [T, number][];
  return entries.reduce((a, b) => (Math.abs(b[1] - value) < Math.abs(a[1] - value) ? b : a))[0];
}

export type PlayingSheetProps = {
  playing: Playing;
  bowed: boolean;
  fork: boolean;
  isOpen: boolean;
  onClose: () => void;
  onPlay: (changed: Partial<Playing>) => void;
};

/** How you play: stroke, place, bow or finger, and how the fork is held. */
export function PlayingSheet({ playing, bowed, fork, isOpen, onClose, onPlay }: PlayingSheetProps) {
  return (
    <Dialog title="How you play" isOpen={isOpen} onClose={onClose}>
      <p>Play as you will play later. A hard stroke starts sharp and falls to its pitch.</p>
      <Rows>
        <div>
          <h3>The stroke</h3>
          <Choice
            label="The stroke"
            value={nearest(STRENGTHS, playing.strength)}
            options={[
              { id: "soft", words: "Soft" },
              { id: "usual", words: "As usual" },
              { id: "hard", words: "Hard" },
            ]}
            onChoose={(id) => onPlay({ strength: STRENGTHS[id] })}
          />
        </div>
        <div>
          <h3>Where it is plucked</h3>
          <Choice
            label="Where it is plucked"
            value={nearest(PLACES, playing.place)}
            options={[
              { id: "bridge", words: "Near the bridge" },
              { id: "usual", words: "As usual" },
              { id: "neck", words: "Near the neck" },
            ]}
            onChoose={(id) => onPlay({ place: PLACES[id] })}
          />
        </div>
        {bowed ? (
          <div>
            <h3>Bow or finger</h3>
            <Choice
              label="Bow or finger"
              value={playing.way === "pluck" ? "pluck" : "usual"}
              options={[
                { id: "usual", words: "Bow" },
                { id: "pluck", words: "Pluck" },
              ]}
              onChoose={(way) => onPlay({ way })}
            />
          </div>
        ) : null}
        {fork ? (
          <div>
            <h3>The fork</h3>
            <Choice
              label="The fork"
              value={playing.byProngs ? "prongs" : "stem"}
              options={[
                { id: "stem", words: "Held by its stem" },
                { id: "prongs", words: "Held by a prong" },
              ]}
              onChoose={(id) => onPlay({ byProngs: id === "prongs" })}
            />
          </div>
        ) : null}
      </Rows>
      <Choices>
        <Button weight="solid" onPress={onClose}>
          Done
        </Button>
      </Choices>
    </Dialog>
  );
}
