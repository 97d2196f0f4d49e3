import { Link, useOutletContext } from "react-router";
import styled from "styled-components";
import type { Method } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { ink, phone, tablet } from "../../theme/theme";
import { EARS, METHODS, SCHOOLS } from "../words";
import { benchPath } from "./asked";
import { PlanCard } from "./plan-card";
import type { Prepared } from "./prepare-frame";
import { Temperament } from "./temperament";
import { planFile, usePlan } from "./use-plan";

const Page = styled.div`
  display: grid;
  gap: 1.25rem;
  min-width: 0;
  max-width: 80rem;
`;
const Choices = styled.div`
  display: grid;
  grid-template-columns: minmax(13rem, 2fr) minmax(9rem, 1fr) minmax(14rem, 4fr) minmax(
      11rem,
      1.4fr
    );
  gap: 0.75rem 1rem;
  align-items: end;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
  ${phone} {
    gap: 0.5rem 0.75rem;
  }
  @media print {
    display: none;
  }
`;
const Away = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 0.75rem;
  a {
    display: flex;
    align-items: center;
    min-height: 44px;
    padding: 0 0.9rem;
    border: 1.5px solid ${ink.edge};
    border-radius: 6px;
    text-decoration: none;
    font-weight: 600;
    background: ${ink.sheet};
  }
  @media print {
    display: none;
  }
`;

/** The plan card, and what it is made for. */
export function PlanView() {
  const { instrument, asked, change } = useOutletContext<Prepared>();
  const plan = usePlan(asked);
  const method: Method = asked.method || plan.data?.method || "mixed";
  return (
    <Page>
      <Choices>
        <Pick
          label="School"
          value={method}
          options={METHODS.map((id) => ({ id, words: SCHOOLS[id].name, about: SCHOOLS[id].about }))}
          onPick={(chosen) => change({ method: chosen })}
        />
        <Pick
          label="Begin with"
          value={asked.start || "own"}
          options={[
            { id: "own", words: "The usual string" },
            ...instrument.strings
              .filter((string) => string.role === "playing")
              .map((string) => ({ id: String(string.number), words: `String ${string.written}` })),
          ]}
          onPick={(start) => change({ start: start === "own" ? "" : start })}
        />
        <Temperament instrument={instrument} asked={{ ...asked, method }} change={change} />
        <Pick
          label="Errors to expect of"
          value={asked.ear}
          options={EARS}
          onPick={(ear) => change({ ear })}
        />
      </Choices>
      {plan.error ? <Notice>{plan.error.message}</Notice> : null}
      {plan.data && !plan.error ? (
        <PlanCard plan={plan.data}>
          <Away>
            <Link to={benchPath(asked, method)}>Practise it on the bench</Link>
            <Button onPress={() => window.print()}>Print</Button>
            <a href={planFile(asked, "pdf", method)} download>
              Save as PDF
            </a>
            <a href={planFile(asked, "json", method)} download>
              Save as JSON
            </a>
          </Away>
        </PlanCard>
      ) : null}
    </Page>
  );
}
