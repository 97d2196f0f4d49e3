import { useState } from "react";
import { Button } from "../parts/button";
import { Notice } from "../parts/notice";
import { Strip } from "./strip";
import { pressOf, useGoOn, useToday } from "./use-today";

type Props = {
  attempt: string;
  /** Whether a rest is due before what comes next. */
  rest?: boolean;
};

/** After a part of the day’s plan: what comes next. Nothing where this was no part of it. */
export function NextInPlan({ attempt, rest = false }: Props) {
  const [isTired, setTired] = useState(rest);
  const today = useToday();
  const goOn = useGoOn();
  const { aim, plan } = today.data ?? {};
  const at = plan?.items.findIndex((one) => one.attempt === attempt) ?? -1;
  if (!aim || !plan || at < 0) return null;
  const next = plan.next === null ? undefined : plan.items[plan.next];
  // what was just finished may not have been told on yet
  const item = next?.attempt === attempt ? plan.items[at + 1] : next;
  if (!item)
    return (
      <Strip aria-label="Today">
        <strong>Today’s plan is done.</strong>
      </Strip>
    );
  if (isTired)
    return (
      <Strip aria-label="Today">
        <div>
          <strong>First a rest</strong>
          <p>Two minutes without a sound. Then the ear hears more.</p>
        </div>
        <Button onPress={() => setTired(false)}>I have rested</Button>
      </Strip>
    );
  const number = plan.items.indexOf(item);
  return (
    <Strip aria-label="Today">
      <div>
        <strong>
          Next: {item.name}
          {item.where ? `, ${item.where}` : ""}
        </strong>
        <p>{item.reason}</p>
      </div>
      <Button
        weight="solid"
        isDisabled={goOn.isPending}
        onPress={() => goOn.mutate({ aim, plan, number })}
      >
        {pressOf(item)}
      </Button>
      {goOn.error ? <Notice>{goOn.error.message}</Notice> : null}
    </Strip>
  );
}
