import { useState } from "react";
import styled from "styled-components";
import type { Mode, Scene } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { Dialog } from "../../parts/dialog";
import { Amount } from "../../parts/entry";
import { Choices } from "../../parts/layout";

const FLATS = "meldrin:flats";
const Rows = styled.div`
  display: grid;
  gap: 1rem;
  h3 {
    font-size: 1rem;
    margin-bottom: 0.35rem;
  }
`;
export const MODES: Record<Mode, string> = {
  chromatic: "Any note",
  instrument: "This instrument",
  lowered: "A semitone down",
};

/** Whether black keys are named as flats; kept in this browser. */
export function useFlats(): [boolean, (flats: boolean) => void] {
  const [flats, set] = useState(localStorage.getItem(FLATS) === "yes");
  return [
    flats,
    (next) => {
      localStorage.setItem(FLATS, next ? "yes" : "no");
      set(next);
    },
  ];
}

export type TunerSheetProps = {
  tuner: Scene["tuner"];
  flats: boolean;
  isOpen: boolean;
  onClose: () => void;
  onSet: (tuner: Scene["tuner"]) => void;
  onFlats: (flats: boolean) => void;
};

/** How the tuner is set: what it calls A, which notes it knows, and how it names the black keys. */
export function TunerSheet({ tuner, flats, isOpen, onClose, onSet, onFlats }: TunerSheetProps) {
  return (
    <Dialog title="The tuner" isOpen={isOpen} onClose={onClose}>
      <Rows>
        <Amount
          label="Its A, in hertz"
          value={tuner.a4_hz}
          low={390}
          high={470}
          onEnter={(a4_hz) => onSet({ ...tuner, a4_hz })}
        />
        <div>
          <h3>It looks for</h3>
          <Choice
            label="It looks for"
            value={tuner.mode}
            options={(Object.keys(MODES) as Mode[]).map((id) => ({ id, words: MODES[id] }))}
            onChoose={(mode) => onSet({ ...tuner, mode })}
          />
        </div>
        <div>
          <h3>It listens with</h3>
          <Choice
            label="It listens with"
            value={tuner.pickup}
            options={[
              { id: "microphone", words: "A microphone" },
              { id: "contact", words: "A contact pickup" },
            ]}
            onChoose={(pickup) => onSet({ ...tuner, pickup })}
          />
          <p>A microphone hears the room as well; a contact pickup hears only the instrument.</p>
        </div>
        <div>
          <h3>It shows steps of</h3>
          <Choice
            label="It shows steps of"
            value={String(tuner.step_cents) as "0" | "2" | "5"}
            options={[
              { id: "0", words: "A tenth of a cent" },
              { id: "2", words: "2 cents" },
              { id: "5", words: "5 cents" },
            ]}
            onChoose={(id) => onSet({ ...tuner, step_cents: Number(id) as 0 | 2 | 5 })}
          />
          <p>A coarse one is slow. Its 0 is as wide as its step: let the ear do the rest.</p>
        </div>
        <div>
          <h3>It names the black keys</h3>
          <Choice
            label="It names the black keys"
            value={flats ? "flats" : "sharps"}
            options={[
              { id: "sharps", words: "As sharps" },
              { id: "flats", words: "As flats" },
            ]}
            onChoose={(id) => onFlats(id === "flats")}
          />
        </div>
      </Rows>
      <Choices>
        <Button weight="solid" onPress={onClose}>
          Done
        </Button>
      </Choices>
    </Dialog>
  );
}
