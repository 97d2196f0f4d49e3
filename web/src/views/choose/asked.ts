// What the address asks for, so that a plan, a piece of advice or a link can lead to the bench.

import type { Exercise, StartKind } from "../../api/client";
import { behaviourIds, methodOf, optionsOf } from "../../words/names";

/** What is practised without a plan. */
export const isOwn = (method: string): boolean => method === "free" || method === "fault";

/** The exercise of a link that somebody copied. */
function linked(text: string | null): Exercise | null {
  try {
    const found: unknown = JSON.parse(text ?? "");
    return typeof found === "object" && found !== null ? (found as Exercise) : null;
  } catch {
    return null;
  }
}

/** What the address asks for, so that a plan or a piece of advice can lead here. */
export function asked(search: URLSearchParams, last: string | undefined): Exercise {
  const whole = linked(search.get("exercise"));
  if (whole) return whole;
  const text = (key: string) => search.get(key);
  const start = text("start");
  const method = text("method");
  const fifth = search.get("fifth");
  return {
    instrument:
      text("instrument") ?? last ?? localStorage.getItem("meldrin:instrument") ?? "guitar",
    method: method && (isOwn(method) || methodOf(method)) ? method : "unison",
    start: optionsOf<StartKind>("starts").find(({ id }) => id === start)?.id ?? "hair",
    tuning: text("tuning") ?? "standard",
    came_from: text("from") ?? "",
    a4_hz: Number(text("a4")) || 440,
    fifth_cents: fifth === null ? null : Number(fifth),
    behaviours: behaviourIds().filter((one) => (text("life") ?? "").split(",").includes(one)),
    tolerance: "settled",
  };
}
