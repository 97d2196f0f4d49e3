// What notes are called: one setting of this browser, used everywhere.

import type { Schemas } from "../api/client";

export type Naming = NonNullable<Schemas["ExerciseSettings"]["naming"]>;

const KEY = "meldrin:naming";
const SUNG: Record<string, string> = {
  C: "Do",
  D: "Re",
  E: "Mi",
  F: "Fa",
  G: "Sol",
  A: "La",
  B: "Si",
};

export function naming(): Naming {
  const stored = localStorage.getItem(KEY);
  return stored === "letters_h" || stored === "solfege" || stored === "sargam" ? stored : "letters";
}

export function setNaming(naming: Naming): void {
  localStorage.setItem(KEY, naming);
}

/** A note, a line of notes, a string or a chord that came by letters, as this browser names them. */
export function named(letters: string, by: Naming = naming()): string {
  if (by === "letters" || by === "sargam") return letters;
  return letters.replace(
    /\b([A-G])([#b]?)(?=(?:m|7)*(?:$|[^a-z0-9#])|-?\d)/g,
    (_, letter: string, sign: string) => {
      if (by === "solfege") return `${SUNG[letter] ?? letter}${sign}`;
      if (letter !== "B") return letter + sign;
      return sign === "b" ? "B" : `H${sign}`;
    },
  );
}
