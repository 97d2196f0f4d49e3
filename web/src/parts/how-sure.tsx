// How sure somebody is of an answer.

import styled from "styled-components";
import type { Sure } from "../api/client";
import { ink, phone } from "../theme/theme";
import { Button } from "./button";

export const SureRow = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: center;
  align-items: center;
  gap: 0.5rem;
  min-height: 48px;
  button[aria-pressed="true"] {
    background: ${ink.solid};
    color: ${ink.onSolid};
  }
  ${phone} {
    span {
      width: 100%;
    }
    button span {
      width: auto;
    }
  }
`;
export const SURES: readonly { id: Sure; words: string }[] = [
  { id: "guess", words: "A guess" },
  { id: "fairly", words: "Fairly" },
  { id: "sure", words: "Sure" },
];

/** The keys that say it. */
export const sureKeys = (judge: (sure: Sure) => void) =>
  Object.fromEntries(SURES.map((one, n) => [String(n + 1), () => judge(one.id)]));

type HowSureProps = {
  words: string;
  isDisabled: boolean;
  /** What was said, where it can still be changed. */
  chosen?: Sure | null;
  onJudge: (sure: Sure) => void;
};

export function HowSure({ words, isDisabled, chosen, onJudge }: HowSureProps) {
  return (
    <SureRow role="group" aria-label={words}>
      <span>{words}</span>
      {SURES.map((one, n) => (
        <Button
          key={one.id}
          hint={String(n + 1)}
          isDisabled={isDisabled}
          {...(chosen === undefined ? {} : { "aria-pressed": chosen === one.id })}
          onPress={() => onJudge(one.id)}
        >
          {one.words}
        </Button>
      ))}
    </SureRow>
  );
}
