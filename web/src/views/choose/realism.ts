// Realism: three steps, and any choice between them.

import type { Behaviour, Instrument } from "../../api/client";
import { behaviourIds, names } from "../../words/names";

export type Realism = "plain" | "lively" | "life" | "own";

const LIVELY: Behaviour[] = ["ringing", "stroke"];
const LIFE: Behaviour[] = [
  "ringing",
  "stroke",
  "pegs",
  "hand",
  "nut",
  "coupling",
  "breaking",
  "fretting",
];

export const REALISM: Record<Exclude<Realism, "own">, { words: string; set: Behaviour[] }> = {
  plain: { words: "Simple", set: [] },
  lively: { words: "Lively", set: LIVELY },
  life: { words: "Realistic", set: LIFE },
};

export function realismOf(behaviours: readonly Behaviour[]): Realism {
  const sorted = [...behaviours].sort().join();
  for (const name of ["plain", "lively", "life"] as const) {
    if ([...REALISM[name].set].sort().join() === sorted) return name;
  }
  return "own";
}

const MACHINES = { name: "Machines have play", about: "turned back, they do nothing at first" };

/** What an instrument can do, in its own words: a viola has no frets, a guitar no friction pegs. */
export function offered(
  made: Instrument | undefined,
): { id: Behaviour; name: string; about: string }[] {
  const friction = made?.strings.some((one) => one.peg.startsWith("friction")) ?? true;
  const fretted = made?.frets !== 0;
  return names()
    .behaviours.filter(
      ({ id }) =>
        (id !== "sticking" || friction) && ((id !== "fretting" && id !== "setup") || fretted),
    )
    .map((one) => ({
      ...one,
      ...(one.id === "pegs" && !friction ? MACHINES : {}),
      id: one.id as Behaviour,
    }));
}

/** In the order of the list, so that equal choices look equal. */
export function toggled(
  behaviours: readonly Behaviour[],
  one: Behaviour,
  on: boolean,
): Behaviour[] {
  const other = one === "creep" ? "false" : one === "false" ? "creep" : null; // new, or old
  return behaviourIds().filter((name) => {
    if (name === one) return on;
    return behaviours.some((kept) => kept === name) && !(on && name === other);
  });
}
