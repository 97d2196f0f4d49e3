// The words of the screen that more than one view needs.

import type {
  Aid,
  Attempt,
  Behaviour,
  Exercise,
  Instrument,
  Method,
  Outcome,
  MethodOrFree,
  StartKind,
  Tolerance,
  Verdict,
} from "../api/client";

export const STARTS: Record<StartKind, { name: string; about: string }> = {
  hair: { name: "Slightly out", about: "Every string a few cents off: slow beats, small turns" },
  high: { name: "A little high", about: "Every string 5 to 15 cents too high" },
  month: {
    name: "After a month",
    about: "Left on its stand; most strings sank, by up to 40 cents",
  },
  one: { name: "One string out", about: "All are in tune but one" },
  slack: { name: "New strings, slack", about: "Just put on, not yet tight" },
  damp: {
    name: "Moved to a drier room",
    about: "It goes on changing while you tune",
  },
  octave: { name: "Wrong octave", about: "One string is an octave too low" },
  reference: { name: "Wrong reference", about: "What gives the pitch is out; find it" },
  group: { name: "Play to the group", about: "Their A is not the fork’s; take it over" },
  retune: { name: "Retune", about: "From one tuning to another" },
};
export const STARTS_IN_ORDER = Object.keys(STARTS) as StartKind[];

export const AIDS: Record<Aid, { name: string; about: string }> = {
  ear: { name: "Ear only", about: "No picture of the pitch. The best score is 100." },
  ripple: {
    name: "Ripples",
    about: "The beats as ripples, never which way. The best score is 80.",
  },
  level: { name: "Level", about: "Low and high, in cents. The best score is 60." },
  tuner: { name: "Tuner", about: "A tuner that listens. The best score is 60." },
};

export const TOLERANCES: Record<Tolerance, { name: string; about: string }> = {
  first: { name: "Within 15 cents", about: "For the first weeks" },
  settled: { name: "Within 6 cents", about: "For playing alone" },
  together: { name: "Within 3 cents", about: "For playing with others" },
  fine: { name: "Within 1 cent", about: "For a recording" },
};

export const BEHAVIOURS: Record<Behaviour, { name: string; about: string }> = {
  ringing: { name: "Strings ring along", about: "unless you keep them quiet" },
  stroke: { name: "Hard strokes start sharp", about: "and fall to pitch" },
  pegs: { name: "Pegs slip", about: "unless they are pushed in" },
  hand: { name: "A real hand", about: "it turns as little as a hand can, never exactly" },
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
  { id: "still", words: "In tune" },
  { id: "high", words: "High" },
];

const SEMITONES_FROM = 120;

/** An offset in words: “1.2 cents low”, “3.4 semitones high”, or “in tune”. */
export function howFar(cents: number | null, digits?: number): string {
  if (cents === null) return "slack";
  const size = Math.abs(cents);
  const side = cents < 0 ? "low" : "high";
  if (size >= SEMITONES_FROM) return `${(size / 100).toFixed(1)} semitones ${side}`;
  const words = size.toFixed(digits ?? (size < 9.95 ? 1 : 0));
  if (Number(words) === 0) return "in tune";
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

const BY_METHOD: Record<MethodOrFree, string> = {
  each: "note by note",
  unison: "by fretted unisons",
  fifths: "by fifths",
  harmonics: "by harmonics",
  drone: "over a drone",
  tuner: "by tuner",
  mixed: "tuner, then ear",
  free: "free play",
};

/** What an exercise is called in a list. */
export function exerciseName(attempt: Attempt): string {
  if (!attempt.exercise) return "An attempt that cannot be opened";
  const { start, method } = attempt.exercise;
  if (method === "free") return `${attempt.instrument_name}: free play`;
  return `${attempt.instrument_name}: ${STARTS[start ?? "hair"].name.toLowerCase()}, ${BY_METHOD[method ?? "each"]}`;
}

/** What stands over the plan. */
export function benchTitle({ method = "each", order }: Exercise): string {
  if (method === "free") return "Free play";
  return method === "mixed" && order === "ear_first"
    ? "Ear, then tuner"
    : METHOD_NAMES[method].name;
}

export const METHOD_NAMES: Record<Method, { name: string; about: string }> = {
  each: { name: "Note by note", about: "From a piano, a pipe or a tone" },
  unison: {
    name: "Fretted unisons (relative tuning)",
    about: "Press a fret, match the next open string",
  },
  fifths: { name: "Fifths", about: "Two open strings together, from A outward" },
  harmonics: { name: "Harmonics", about: "Touch two strings where their partials meet" },
  drone: { name: "Drone", about: "Every string over one lasting note" },
  tuner: { name: "Tuner", about: "String by string, then all again" },
  mixed: { name: "Tuner, then ear", about: "A tuner, and the ear to check it" },
};
export const METHODS = Object.keys(METHOD_NAMES) as Method[];
export const METHOD_OPTIONS = METHODS.map((id) => ({
  id,
  words: METHOD_NAMES[id].name,
  about: METHOD_NAMES[id].about,
}));

export const EARS = [
  { id: "beginner", words: "A beginner’s ear", about: "About 6 cents a comparison" },
  { id: "practised", words: "A practised ear", about: "About 3 cents a comparison" },
  { id: "trained", words: "A trained ear", about: "About 1.5 cents a comparison" },
] as const;

export const RIPPLES = {
  fast: "fast",
  slow: "slow",
  very_slow: "very slow",
  still: "still",
} as const;

export const BASES: Record<Outcome["strings"][number]["basis"], string> = {
  ear: "ear only",
  ripple: "ripples",
  level: "level",
  tuner: "tuner",
  read: "read on the tuner",
  none: "not heard",
};

/** “Ear only”, “With ripples”, …: what an attempt was helped by at most. */
export function helpWords(aid: keyof typeof BASES): string {
  if (aid === "ear") return "Ear only";
  if (aid === "read") return "Read on the tuner";
  return aid === "none" ? "Nothing judged" : `With ${BASES[aid]}`;
}

/** A size in words: “2.3 cents”, “slack” where there is none. */
export function sizeWords(cents: number | null): string {
  return cents === null
    ? "slack"
    : howFar(cents)
        .replace(/ (low|high)$/, "")
        .replace("in tune", "0 cents");
}

/** Methods that go from one string to the next, and so can start from one that is trusted. */
export const RELATIVE: readonly Method[] = ["unison", "fifths", "harmonics"];
/** Methods that take the strings in any order. */
export const ORDERED: readonly Method[] = ["each", "tuner", "drone", "mixed"];
const ORDERS = [
  { id: "usual" as const, words: "As usual" },
  { id: "up" as const, words: "From low to high" },
  { id: "down" as const, words: "From high to low" },
];
const EAR_FIRST = { id: "ear_first" as const, words: "By ear first, then the tuner" };

/** The orders a method can be gone through in. */
export function ordersOf(method: Method | "free") {
  return method === "mixed" ? [...ORDERS, EAR_FIRST] : ORDERS;
}

const MEETS_A_FORK: readonly string[] = ["A3", "A2", "D3"];

/** Whether a fork's A meets a harmonic of one of the strings: half, a third or a quarter of it. */
export function harmonicMeetsFork(instrument: Instrument): boolean {
  return instrument.strings.some(
    (string) => string.role === "playing" && MEETS_A_FORK.includes(string.note),
  );
}

/** Methods that begin with one string from a fork. */
export const FROM_A_FORK: readonly Method[] = ["unison", "fifths", "harmonics", "mixed"];

export const FORK_AT = [
  { id: "open" as const, words: "With the open string" },
  { id: "harmonic" as const, words: "With a harmonic" },
];
