// How true to life the instrument is: three steps, and any choice between them.

import type { Behaviour } from "../../api/client";
import { BEHAVIOURS_IN_ORDER } from "../words";

export type Realism = "plain" | "lively" | "life" | "own";

const LIVELY: Behaviour[] = ["ringing", "stroke"];
const LIFE: Behaviour[] = ["ringing", "stroke", "pegs", "nut", "coupling", "breaking", "fretting"];

export const REALISM: Record<Exclude<Realism, "own">, { words: string; set: Behaviour[] }> = {
  plain: { words: "Plain", set: [] },
  lively: { words: "Lively", set: LIVELY },
  life: { words: "True to life", set: LIFE },
};

export function realismOf(behaviours: readonly Behaviour[]): Realism {
  const sorted = [...behaviours].sort().join();
  for (const name of ["plain", "lively", "life"] as const) {
    if ([...REALISM[name].set].sort().join() === sorted) return name;
  }
  return "own";
}

/** In the order of the list, so that equal choices look equal. */
export function toggled(
  behaviours: readonly Behaviour[],
  one: Behaviour,
  on: boolean,
): Behaviour[] {
  return BEHAVIOURS_IN_ORDER.filter((name) =>
    name === one ? on : behaviours.some((kept) => kept === name),
  );
}
