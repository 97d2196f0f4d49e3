import { useState } from "react";
import styled from "styled-components";
import type { Verdict } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { ink, phone } from "../../theme/theme";
import { VERDICTS } from "../words";

const Group = styled.section`
  display: grid;
  gap: 0.5rem;
  h2 {
    font-size: 1rem;
  }
`;
const CentsRow = styled.div`
  display: grid;
  grid-template-columns: 44px 1fr 44px;
  align-items: center;
  text-align: center;
  button {
    justify-content: center;
    padding: 0;
    font-size: 1.25rem;
  }
`;
const Said = styled.p`
  min-height: 44px;
  ${phone} {
    min-height: 0;
  }
  display: flex;
  align-items: center;
  color: ${ink.quiet};
`;

export const MOST_CENTS = 50;

export type Judging = { verdict: Verdict | null; cents: number; asked: boolean };

/** The state of a judgement not yet given; starts anew at each stage. */
export function useJudging(stage: number): [Judging, (changed: Partial<Judging>) => void] {
  const fresh = { verdict: null, cents: 5, asked: false };
  const [kept, keep] = useState<{ stage: number; judging: Judging }>({ stage, judging: fresh });
  const judging = kept.stage === stage ? kept.judging : fresh;
  return [judging, (changed) => keep({ stage, judging: { ...judging, ...changed } })];
}

export type JudgeProps = {
  label: string;
  judging: Judging;
  mayJudge: boolean;
  keys: { low: string; still: string; high: string };
  onVerdict: (verdict: Verdict) => void;
  onCents: (by: number) => void;
};

/** Say how the string sits, before anything tells. */
export function Judge({ label, judging, mayJudge, keys, onVerdict, onCents }: JudgeProps) {
  const { verdict, cents, asked } = judging;
  return (
    <Group aria-label={`How does ${label} sit?`}>
      <h2>How does {label} sit now?</h2>
      {!mayJudge ? (
        <Said>You have said it; the answer comes at the end.</Said>
      ) : (
        <>
          <Choice
            label={`How does ${label} sit now?`}
            value={verdict}
            options={VERDICTS.map((option) => ({ ...option, hint: keys[option.id] }))}
            onChoose={onVerdict}
          />
          {verdict === "low" || verdict === "high" ? (
            <Cents verdict={verdict} cents={cents} onCents={onCents} />
          ) : (
            <Said role="status">
              {asked && verdict === null ? "First say what you believe: low, still or high?" : ""}
            </Said>
          )}
        </>
      )}
    </Group>
  );
}

type CentsProps = { verdict: Verdict | null; cents: number; onCents: (by: number) => void };

/** By how many cents, where it is not still. */
export function Cents({ verdict, cents, onCents }: CentsProps) {
  if (verdict !== "low" && verdict !== "high") return null;
  return (
    <CentsRow>
      <Button aria-label="Fewer cents" onPress={() => onCents(-1)}>
        −
      </Button>
      <span aria-live="polite">
        by {cents} {cents === 1 ? "cent" : "cents"}
      </span>
      <Button aria-label="More cents" onPress={() => onCents(1)}>
        +
      </Button>
    </CentsRow>
  );
}
