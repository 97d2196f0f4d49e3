// The words of the screen that more than one view needs.

import type {
  Aid,
  Attempt,
  Behaviour,
  Method,
  School,
  StartKind,
  Tolerance,
  Verdict,
} from "../api/client";

export const STARTS: Record<StartKind, { name: string; about: string }> = {
  hair: { name: "A hair out", about: "Every string a few cents off: slow beats, small turns" },
  month: {
    name: "After a month",
    about: "Left on its stand; most strings sank, by up to 40 cents",
  },
  one: { name: "One string out", about: "All are right but one" },
  slack: { name: "From slack", about: "New strings, loose and flapping" },
  damp: {
    name: "From damp to dry",
    about: "Carried up the hill; it goes on changing while you tune",
  },
  octave: { name: "A wrong octave", about: "One string is an octave too low" },
  reference: { name: "A wrong reference", about: "What gives the pitch is out; find it" },
  retune: { name: "Another tuning", about: "From the tuning it stands in to a new one" },
};
export const STARTS_IN_ORDER = Object.keys(STARTS) as StartKind[];

export const AIDS: Record<Aid, { name: string; about: string }> = {
  ear: { name: "Ear", about: "No picture of the pitch, only what you did." },
  ripple: { name: "Ripple", about: "The beats as ripples, never which side you are on." },
  level: { name: "Level", about: "The full picture, low and high, in cents." },
  tuner: { name: "Tuner", about: "A tuner that listens, with a tuner’s limits." },
};

export const TOLERANCES: Record<Tolerance, { name: string; about: string }> = {
  first: { name: "First weeks", about: "Full points within 15 cents" },
  settled: { name: "Settled", about: "Full points within 6 cents" },
  together: { name: "With others", about: "Full points within 3 cents" },
  fine: { name: "Fine", about: "Full points within 1 cent" },
};

export const BEHAVIOURS: Record<Behaviour, { name: string; about: string }> = {
  ringing: { name: "Strings ring along", about: "unless you keep them quiet" },
  stroke: { name: "Hard strokes start sharp", about: "and fall to pitch" },
  pegs: { name: "Pegs slip", about: "unless they are pushed in" },
  sticking: { name: "Friction pegs stick", about: "they jump by a degree or so" },
  nut: { name: "The nut grips", about: "coming down leaves slack behind it" },
  coupling: { name: "The frame gives", about: "each string moves the others" },
  creep: { name: "New strings sink", about: "fast at first, for days" },
  fretting: { name: "Fingers press", about: "too hard is sharp" },
  setup: { name: "Frets and nut are off", about: "sharp at 12, or at 1 and 2" },
  false: { name: "Old strings are false", about: "they beat with themselves" },
  room: { name: "The room changes", about: "warmth and damp while you tune" },
  noise: { name: "The room is noisy", about: "for the tuner" },
  breaking: { name: "Strings can snap", about: "far above their pitch" },
  reference: { name: "The reference may be wrong", about: "check it" },
};
export const BEHAVIOURS_IN_ORDER = Object.keys(BEHAVIOURS) as Behaviour[];

export const VERDICTS: readonly { id: Verdict; words: string }[] = [
  { id: "low", words: "Low" },
  { id: "still", words: "Still" },
  { id: "high", words: "High" },
];

const HALF_STEPS_FROM = 120;

/** An offset in words: “1.2 cents low”, “3.4 half steps high”, or “still”. */
export function howFar(cents: number | null, digits?: number): string {
  if (cents === null) return "slack";
  const size = Math.abs(cents);
  const side = cents < 0 ? "low" : "high";
  if (size >= HALF_STEPS_FROM) return `${(size / 100).toFixed(1)} half steps ${side}`;
  const words = size.toFixed(digits ?? (size < 9.95 ? 1 : 0));
  if (Number(words) === 0) return "still";
  return `${words} ${Number(words) === 1 ? "cent" : "cents"} ${side}`;
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

const BY_SCHOOL: Record<School, string> = {
  each: "note by note",
  unison: "by stopped strings",
  fifths: "by fifths",
  harmonics: "by harmonics",
  drone: "over a drone",
  tuner: "by tuner",
  mixed: "tuner and ear",
  free: "free play",
};

/** What an exercise is called in a list. */
export function exerciseName(attempt: Attempt): string {
  const { start, method } = attempt.exercise;
  if (method === "free") return `${attempt.instrument_name}: free play`;
  return `${attempt.instrument_name}: ${STARTS[start ?? "hair"].name.toLowerCase()}, ${BY_SCHOOL[method ?? "each"]}`;
}

/** What stands over the plan. */
export function benchTitle(school: School): string {
  if (school === "free") return "Free play";
  return SCHOOLS[school].name;
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
