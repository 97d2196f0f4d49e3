import styled from "styled-components";
import type { Schemas } from "../api/client";
import { Button } from "../parts/button";
import { Onward } from "../parts/layout";
import { Notice } from "../parts/notice";
import { ink } from "../theme/theme";
import { type Step, useTryStep } from "./use-steps";

const Lines = styled.ul`
  border-bottom: 1px solid ${ink.line};
`;
const Line = styled.li`
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.25rem 1rem;
  padding: 0.7rem 0;
  border-top: 1px solid ${ink.line};
  p {
    color: ${ink.quiet};
  }
  strong {
    font-size: 1.125rem;
  }
`;
/** Steps as sentences, each to be tried. */
export function StepLines({ steps }: { steps: readonly Step[] }) {
  const tried = useTryStep();
  return (
    <>
      <Lines>
        {steps.map((step) => (
          <Line key={step.id} data-proven={step.proven ? "" : undefined}>
            <div>
              <strong>{step.can}</strong>
              <p>{step.shown_by}</p>
            </div>
            <Button
              aria-label={`Try: ${step.can}`}
              isDisabled={tried.isPending}
              onPress={() => tried.mutate(step.id)}
            >
              Try
            </Button>
          </Line>
        ))}
      </Lines>
      {tried.error ? <Notice>{tried.error.message}</Notice> : null}
    </>
  );
}

/** The stage a learner is in, and the next two steps. */
export function NextSteps({ path }: { path: Schemas["PathNow"] }) {
  return (
    <>
      <h2>{path.next.length > 0 ? `${path.stage}: what comes next` : "All steps are shown"}</h2>
      <StepLines steps={path.next} />
      <Onward to="/steps">All steps</Onward>
    </>
  );
}
