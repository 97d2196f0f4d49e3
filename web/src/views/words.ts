// The words of the screen that more than one view needs.

import type { Aid, Attempt, Method, StartKind, Verdict } from "../api/client";

export const STARTS: Record<StartKind, { name: string; about: string }> = {
  hair: { name: "A hair out", about: "Every string a few cents off. Slow beats, small turns." },
  month: {
    name: "After a month",
    about: "Left on its stand. Most strings sank, by up to 40 cents.",
  },
  one: { name: "One string out", about: "Five strings are right and one, by lot, is not." },
};

export const AIDS: Record<Aid, { name: string; about: string }> = {
  ear: { name: "Ear", about: "No picture of the pitch, only what you did." },
  ripple: { name: "Ripple", about: "The beats as ripples, never which side you are on." },
  level: { name: "Level", about: "The full picture, low and high, in cents." },
};

export const VERDICTS: readonly { id: Verdict; words: string }[] = [
  { id: "low", words: "Low" },
  { id: "still", words: "Still" },
  { id: "high", words: "High" },
];

/** An offset in words: “1.2 cents low”, or “still”. */
export function howFar(cents: number): string {
  const size = Math.abs(cents).toFixed(1);
  if (size === "0.0") return "still";
  return `${size} ${size === "1.0" ? "cent" : "cents"} ${cents < 0 ? "low" : "high"}`;
}

export function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

export function dayAndTime(iso: string): string {
  return new Date(iso).toLocaleString("en-GB", {
    day: "numeric",
    month: "long",
    hour: "2-digit",
    minute: "2-digit",
  });
}

export function exerciseName(attempt: Attempt): string {
  return `${STARTS[attempt.start].name}, by stopped strings`;
}

export const SCHOOLS: Record<Method, { name: string; about: string }> = {
  each: { name: "Every string to its own note", about: "From a piano, a pipe or a tone" },
  unison: { name: "Unison by stopped strings", about: "Stop one where the next one lives" },
  fifths: { name: "Fifths outward", about: "Two open strings, until they lock" },
  harmonics: { name: "Natural harmonics", about: "Where two strings’ partials coincide" },
  drone: { name: "Drone and scale degrees", about: "Every string over one lasting note" },
  tuner: { name: "Tuner", about: "String by string, then all again" },
  mixed: { name: "Mixed, with cross-checks", about: "A tuner, and the ear as the judge" },
};
export const METHODS = Object.keys(SCHOOLS) as Method[];

export const EARS = [
  { id: "beginner", words: "A beginner’s ear", about: "About 6 cents a comparison" },
  { id: "practised", words: "A practised ear", about: "About 3 cents a comparison" },
  { id: "trained", words: "A trained ear", about: "About 1.5 cents a comparison" },
] as const;
