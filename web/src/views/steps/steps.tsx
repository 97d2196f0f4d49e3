// All steps of what one can do, in their four stages; any of them can be tried.

import styled from "styled-components";
import { Notice } from "../../parts/notice";
import { StepLines } from "../../today/next-steps";
import { type Step, useSteps } from "../../today/use-steps";
import { ink, phone, tablet } from "../../theme/theme";
import { day } from "../../words/formats";

const Main = styled.main`
  display: grid;
  gap: 2rem 3rem;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  align-content: start;
  align-items: start;
  padding: 1.75rem 1.5rem 3rem;
  max-width: 80rem;
  width: 100%;
  margin: 0 auto;
  h1,
  p.says {
    grid-column: 1 / -1;
  }
  p.says {
    margin-top: -1.5rem;
    color: ${ink.quiet};
    font-size: 1.125rem;
  }
  section {
    display: grid;
    gap: 0.6rem;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
`;
const Done = styled.ul`
  li {
    padding: 0.5rem 0;
    border-top: 1px solid ${ink.line};
  }
  span {
    color: ${ink.quiet};
  }
`;

export function Steps() {
  const steps = useSteps();
  if (steps.error)
    return (
      <Main>
        <Notice>{steps.error.message}</Notice>
      </Main>
    );
  if (!steps.data) return <Main />;
  const { now, stages } = steps.data;
  return (
    <Main>
      <h1>What you can do</h1>
      <p className="says">{sentence(now.proven)} Try them in any order.</p>
      {stages.map((stage) => (
        <section key={stage.id} aria-labelledby={stage.id}>
          <h2 id={stage.id}>{stage.name}</h2>
          <Proven steps={stage.steps} />
          <StepLines steps={stage.steps.filter((one) => !one.proven)} />
        </section>
      ))}
    </Main>
  );
}

function sentence(proven: number): string {
  if (proven === 0) return "Nothing is shown yet.";
  return proven === 1 ? "You have shown one step." : `You have shown ${proven} steps.`;
}

function Proven({ steps }: { steps: readonly Step[] }) {
  const shown = steps.filter((one) => one.proven);
  if (shown.length === 0) return null;
  return (
    <Done aria-label="Shown">
      {shown.map((one) => (
        <li key={one.id}>
          {one.can}. <span>Shown on {day(one.proven ?? "")}.</span>
        </li>
      ))}
    </Done>
  );
}
