import { useState } from "react";
import styled from "styled-components";
import { Choice } from "../../parts/choice";
import { Pick } from "../../parts/pick";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE, phone } from "../../theme/theme";
import { labelOf } from "../../words/labels";
import type { Bench } from "./commands";
import { named } from "../../words/notes";

const Group = styled.section`
  display: grid;
  gap: 0.45rem;
  h2 {
    font-size: 1rem;
  }
  p {
    color: ${ink.quiet};
  }
  ${phone} {
    grid-template-columns: minmax(0, 0.8fr) minmax(0, 1.2fr) minmax(0, 1fr);
    align-items: center;
    gap: 0.35rem;
    &:not([data-group]) {
      grid-template-columns: minmax(0, 1fr);
    }
    &[data-stage] {
      grid-template-columns: minmax(0, 1.2fr) minmax(0, 1fr);
    }
    h2 {
      display: none;
    }
    p {
      grid-column: span 2;
    }
    p {
      font-size: 0.875rem;
      line-height: 1.2;
    }
  }
`;
const NONE = "0";
const NO_CHORD = "none";

export type ChordPartProps = { bench: Bench; isLive: boolean };

/** A chord: which one, in free play, and which of its strings is out. */
export function ChordPart({ bench, isLive }: ChordPartProps) {
  const { page, scene, stage, chord } = bench;
  const asks = chord !== null && chord.strings.length > 1;
  return (
    <Group
      aria-label="The chord"
      data-group={asks ? "chord" : undefined}
      data-stage={stage ? "" : undefined}
    >
      {stage === null ? (
        <Pick
          label="Chord"
          isLabelUnseen={chord !== null}
          value={chord?.name ?? NO_CHORD}
          options={[
            { id: NO_CHORD, words: "No chord" },
            ...page.chords.map(({ name }) => ({
              id: name,
              words: named(name, page.exercise.naming),
            })),
          ]}
          onPick={(name) => bench.layChord(name === NO_CHORD ? null : name)}
        />
      ) : null}
      {asks ? (
        <NameOut
          key={`${scene.stage} ${chord.name} ${scene.named}`}
          bench={bench}
          isLive={isLive}
        />
      ) : null}
    </Group>
  );
}

/** Say which string of the chord is out, and which way. */
function NameOut({ bench, isLive }: ChordPartProps) {
  const { page, scene, chord, act } = bench;
  const narrow = useMedia(PHONE);
  const [picked, pick] = useState<string | null>(null);
  if (!scene.may_name) {
    return (
      <>
        <h2>Which string is out?</h2>
        <p role="status">{scene.named ?? "Play the chord, then say it."}</p>
      </>
    );
  }
  return (
    <>
      <Pick
        label="Which string is out?"
        prompt={narrow ? "Which one?" : "Choose"}
        isLabelUnseen={narrow}
        value={picked}
        options={[
          { id: NONE, words: "None" },
          ...(chord?.strings ?? []).map((number) => ({
            id: String(number),
            words: labelOf(page, number),
          })),
        ]}
        onPick={(id) =>
          id === NONE ? act({ kind: "name_out", string: 0, verdict: "in_tune" }) : pick(id)
        }
      />
      <Choice
        label="Which way?"
        value={null}
        isDisabled={picked === null || !isLive}
        options={[
          { id: "low", words: "Low" },
          { id: "high", words: "High" },
        ]}
        onChoose={(verdict) => act({ kind: "name_out", string: Number(picked), verdict })}
      />
    </>
  );
}
