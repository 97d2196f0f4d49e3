import { useState } from "react";
import styled from "styled-components";
import type { Verdict } from "../../api/client";
import { Button } from "../../parts/button";
import { Choice } from "../../parts/choice";
import { ink, phone } from "../../theme/theme";
import { optionsOf } from "../../words/names";

const Group = styled.section`
  display: grid;
  gap: 0.45rem;
  h2 {
    font-size: 1rem;
  }
  ${phone} {
    grid-template-columns: minmax(0, 1fr) auto;
    align-items: center;
    gap: 0.25rem 0.4rem;
    h2 {
      font-size: 0.9375rem;
    }
    & > [role="radiogroup"] {
      grid-column: 1 / -1;
      order: 3;
      & > * {
        min-height: 52px;
        padding: 0 0.2rem;
      }
    }
    & > button {
      padding: 0 0.6rem;
      font-size: 0.875rem;
    }
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
  ${phone} {
    grid-template-columns: 44px auto 44px;
    font-size: 0.875rem;
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

const Answer = styled.p`
  font-weight: 650;
  &:empty {
    display: none;
  }
`;
const Asked = styled.p`
  color: ${ink.quiet};
  &:empty {
    display: none;
  }
`;

export const MOST_CENTS = 50;

export type Judging = { verdict: Verdict | null; cents: number; asked: boolean };

/** The state of a judgement not yet given; starts again at each stage. */
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
  /** Before the first turn: it can still be said which way it is out. */
  mayDecide: boolean;
  isJudged: boolean;
  /** How it is, where that is told at once. */
  answer: string | null;
  /** Help has shown it: it can be put out again, to do it by ear. */
  mayPutOut: boolean;
  keys: { low: string; in_tune: string; high: string; unsure: string; putOut: string };
  onVerdict: (verdict: Verdict) => void;
  onDecide: (verdict: "low" | "high" | "unsure") => void;
  onCents: (by: number) => void;
  onPutOut: () => void;
};

/** Say how the string is, before anything tells: which way before the first turn, and how far after
 * it. */
export function Judge(props: JudgeProps) {
  const { label, judging, mayJudge, mayDecide, isJudged, answer, keys } = props;
  const { onVerdict, onCents } = props;
  const { verdict, cents, asked } = judging;
  const options = optionsOf<Verdict>("verdicts").map(({ id, words }) => ({
    id,
    words,
    hint: keys[id],
  }));
  if (mayDecide) {
    return (
      <Group aria-label={`How is ${label}?`}>
        <h2>Before you turn: how is {label}?</h2>
        <Choice
          label={`Before you turn: how is ${label}?`}
          value={verdict}
          options={options}
          onChoose={(chosen) => (chosen === "in_tune" ? onVerdict(chosen) : props.onDecide(chosen))}
        />
        <Button hint={keys.unsure} onPress={() => props.onDecide("unsure")}>
          Cannot tell
        </Button>
        <Asked role="status">
          {asked && verdict === null ? "Say it first: low, in tune or high?" : ""}
        </Asked>
      </Group>
    );
  }
  return (
    <Group aria-label={`How is ${label}?`}>
      <h2>How is {label} now?</h2>
      <Answer role="status">{answer ?? ""}</Answer>
      {!mayJudge ? (
        <Said>
          {answer !== null
            ? ""
            : isJudged
              ? "You have said it. The answer comes at the end."
              : "Play it, then say it."}
        </Said>
      ) : (
        <>
          <Choice
            label={`How is ${label} now?`}
            value={verdict}
            options={options}
            onChoose={onVerdict}
          />
          {verdict === "low" || verdict === "high" ? (
            <Cents verdict={verdict} cents={cents} onCents={onCents} />
          ) : (
            <Said role="status">
              {asked && verdict === null ? "Say it first: low, in tune or high?" : ""}
            </Said>
          )}
        </>
      )}
      {props.mayPutOut && (isJudged || verdict === "in_tune") ? (
        <Button hint={keys.putOut} onPress={props.onPutOut}>
          Put it out again, by ear
        </Button>
      ) : null}
    </Group>
  );
}

type CentsProps = { verdict: Verdict | null; cents: number; onCents: (by: number) => void };

/** By how many cents, where it is not in tune. */
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
