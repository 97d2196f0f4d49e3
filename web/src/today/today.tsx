import { useState } from "react";
import styled from "styled-components";
import { Button } from "../parts/button";
import { Choice } from "../parts/choice";
import { Notice } from "../parts/notice";
import { ink, phone, tablet } from "../theme/theme";
import { AimDialog } from "./aim-dialog";
import { type Aim, pressOf, type TodayItem, type TodayPlan, useAim, useGoOn } from "./use-today";

const Section = styled.section`
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 7fr);
  gap: 1.25rem 3rem;
  align-items: start;
  padding: 2rem 1.5rem;
  background: ${ink.sheet};
  border-bottom: 1.5px solid ${ink.line};
  h1 {
    font-size: 2.25rem;
  }
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
  ${phone} {
    padding: 1.25rem 1rem;
    h1 {
      font-size: 1.75rem;
    }
  }
`;
const Say = styled.div`
  display: grid;
  gap: 0.9rem;
  justify-items: start;
  button[aria-label] {
    min-width: 9rem;
    justify-content: center;
    font-size: 1.1875rem;
  }
  .goal {
    font-size: 1.25rem;
    font-weight: 600;
    color: ${ink.water};
  }
`;
const Items = styled.ol`
  border-top: 1.5px solid ${ink.text};
  li {
    display: grid;
    grid-template-columns: 1.5rem minmax(0, 1fr) auto;
    gap: 0 0.75rem;
    align-items: baseline;
    padding: 0.6rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  li[data-done] strong {
    font-weight: 400;
  }
  p,
  span.minutes {
    color: ${ink.quiet};
  }
`;
const FEW = 2;
const MINUTES = [
  { id: "5", words: "5 minutes" },
  { id: "10", words: "10 minutes" },
  { id: "20", words: "20 minutes" },
] as const;
const Fair = styled.p`
  grid-column: -2 / -1;
  color: ${ink.quiet};
`;

/** An item with where it is practised: “Higher or lower, high notes”. */
function called({ name, where }: TodayItem): string {
  return where ? `${name}, ${where}` : name;
}

/** What to do today, with one press to begin or go on. */
export function Today({ aim, plan, goal }: { aim: Aim; plan: TodayPlan; goal: string }) {
  const goOn = useGoOn();
  const setAim = useAim();
  const [asking, setAsking] = useState(false);
  const { next } = plan;
  const item = next === null ? null : plan.items[next];
  const done = plan.items.filter((one) => one.state === "done").length;
  const isFirst = plan.items.length <= FEW && done === 0; // a newcomer's day is short as it is
  const error = goOn.error ?? (asking ? null : setAim.error);
  return (
    <Section aria-labelledby="today">
      <Say>
        {goal ? <p className="goal">{goal}</p> : null}
        <h1 id="today">{item ? `Today: ${called(item)}` : "Done for today."}</h1>
        {item ? (
          <Button
            weight="solid"
            size="tall"
            aria-label={`${pressOf(item)}: ${item.name}`}
            isDisabled={goOn.isPending}
            onPress={() => goOn.mutate({ aim, plan, number: next ?? 0 })}
          >
            {pressOf(item)}
          </Button>
        ) : (
          <Button
            isDisabled={goOn.isPending}
            onPress={() =>
              goOn.mutate({ aim: { ...aim, minutes: 5 }, plan: { ...plan, id: null }, number: 0 })
            }
          >
            Five minutes more
          </Button>
        )}
        {item ? <p>On the {plan.instrument_name}.</p> : null}
        {isFirst ? null : done === 0 ? (
          <Choice
            label="How long"
            value={String(aim.minutes ?? 10) as (typeof MINUTES)[number]["id"]}
            options={MINUTES}
            onChoose={(id) => setAim.mutate({ ...aim, minutes: Number(id) as 5 | 10 | 20 })}
          />
        ) : (
          <p>
            {done} of {plan.items.length} done.
          </p>
        )}
        <Button weight="bare" onPress={() => setAsking(true)}>
          What you practise for
        </Button>
        {error ? <Notice>{error.message}</Notice> : null}
      </Say>
      <Items>
        {plan.items.map((one, number) => (
          <li
            key={number}
            data-done={one.state === "done" || undefined}
            aria-current={number === next ? "step" : undefined}
          >
            <span aria-hidden="true">{one.state === "done" ? "✓" : number + 1}</span>
            <div>
              <strong>{called(one)}</strong>
              <p>{one.reason}</p>
            </div>
            <span className="minutes">{one.state === "done" ? "done" : `${one.minutes} min`}</span>
          </li>
        ))}
      </Items>
      <Fair>In a fair order.</Fair>
      {asking ? (
        <AimDialog
          aim={aim}
          error={setAim.error}
          onClose={() => setAsking(false)}
          onSet={(wanted) => setAim.mutate(wanted, { onSuccess: () => setAsking(false) })}
        />
      ) : null}
    </Section>
  );
}
