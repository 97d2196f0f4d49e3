import { useOutletContext } from "react-router";
import styled from "styled-components";
import { Button } from "../../parts/button";
import { Entry } from "../../parts/entry";
import { Notice } from "../../parts/notice";
import { Pick } from "../../parts/pick";
import { useServing } from "../../parts/use-serving";
import { Tick } from "../../parts/tick";
import { ink, phone, tablet } from "../../theme/theme";
import { useStart } from "../../realtime/start";
import { capital } from "../../words/formats";
import {
  anyOrder,
  harmonicMeetsFork,
  methodOf,
  methodOptions,
  optionsOf,
  ordersOf,
} from "../../words/names";
import { named } from "../../words/notes";
import { type Ear, FLAGS, type ForkAt, type Order, practised } from "./asked";
import { Intervals } from "./intervals";
import { PlanCard } from "./plan-card";
import type { Prepared } from "./prepared";
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
  grid-template-columns: repeat(auto-fit, minmax(13rem, 1fr));
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

const PEGS = {
  slip: "A peg slips, you found: push it in as you turn. Here it slips when you practise, too.",
  stick: "A peg sticks, you found: come up in small moves. Here it sticks when you practise, too.",
};

/** The plan card, and what it is made for. */
export function PlanView() {
  const { instrument, asked, change } = useOutletContext<Prepared>();
  const plan = usePlan(asked);
  const { serving } = useServing(instrument.id, asked.notes || asked.tuning);
  const method = asked.method || plan.data?.method || "mixed";
  const start = useStart();
  return (
    <Page>
      <Choices>
        <Pick
          label="Method"
          value={method}
          options={serving(methodOptions())}
          onPick={(chosen) => change({ method: chosen })}
        />
        <Pick
          label="Begin with"
          value={asked.start || "own"}
          options={[
            { id: "own", words: "The usual string" },
            ...instrument.strings
              .filter((string) => string.role === "playing")
              .map((string) => ({
                id: String(string.number),
                words: capital(named(string.label)),
              })),
          ]}
          onPick={(first) => change({ start: first === "own" ? "" : first })}
        />
        {FLAGS.filter((one) => one.offered(method, instrument.fretting)).map((one) => (
          <Tick
            key={one.id}
            words={one.words}
            about={one.about}
            isSelected={asked[one.id]}
            onChange={(on) => change({ [one.id]: on, method })}
          />
        ))}
        {anyOrder(method) ? (
          <Pick
            label="Order"
            value={asked.order}
            options={ordersOf(method)}
            onPick={(order) => change({ order: order as Order })}
          />
        ) : null}
        {harmonicMeetsFork(instrument) && methodOf(method)?.from_fork ? (
          <Pick
            label="Match the fork"
            value={asked.fork_at}
            options={optionsOf<ForkAt>("fork_ats")}
            onPick={(fork_at) => change({ fork_at })}
          />
        ) : null}
        <Temperament instrument={instrument} asked={{ ...asked, method }} change={change} />
        {asked.second_pass ? (
          <Entry
            label="Strings far out, if you know them"
            value={asked.far}
            placeholder={`${instrument.strings.length}, 1`}
            onEnter={(far) => change({ far })}
          />
        ) : null}
        <Pick
          label="Errors to expect of"
          value={asked.ear}
          options={optionsOf<Ear>("ears")}
          onPick={(ear) => change({ ear })}
        />
      </Choices>
      {asked.temperament === "piece" ? (
        <Intervals instrument={instrument} piece={asked.piece} change={change} />
      ) : null}
      {asked.pegs ? <p>{PEGS[asked.pegs]}</p> : null}
      {start.error ? <Notice>{start.error.message}</Notice> : null}
      {plan.error ? <Notice>{plan.error.message}</Notice> : null}
      {plan.isPending ? <p role="status">Making the plan …</p> : null}
      {plan.data && !plan.error ? (
        <PlanCard plan={plan.data}>
          <Away>
            <Button
              weight="solid"
              isDisabled={start.isPending}
              onPress={() => start.mutate({ exercise: practised(asked, method, plan.data) })}
            >
              Practise it
            </Button>
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
