// What is being prepared, kept in the address: it survives a reload, and a teacher can send it on.

import { useCallback } from "react";
import { useSearchParams } from "react-router";
import type {
  Behaviour,
  Exercise,
  Instrument,
  Plan,
  PlanQuery,
  RankingQuery,
  StartKind,
} from "../../api/client";
import { fromTrusted, methodOf, SETS_FRETS, setsFrets } from "../../words/names";
import { naming } from "../../words/notes";

export type Order = NonNullable<PlanQuery["order"]>;
export type ForkAt = NonNullable<PlanQuery["fork_at"]>;
export type Temperament = NonNullable<PlanQuery["temperament"]>;
export type Ear = NonNullable<PlanQuery["ear"]>;

export const OWN_NOTES = "own-notes";
const INSTRUMENT_KEY = "meldrin:instrument";

// What is asked before anything is chosen. Most of it goes into a plan's query under the same name.
export const PLAIN = {
  instrument: "guitar",
  tuning: "standard",
  from: "standard",
  notes: "",
  from_notes: "",
  a4_hz: 440,
  method: "",
  temperament: "own" as Temperament,
  fifth_cents: -1,
  tonic: "",
  share: 0.5,
  offsets: "",
  reason: "",
  start: "",
  /** Nothing is at hand: the string to begin with is trusted as it is. */
  itself: false,
  order: "usual" as Order,
  fork_at: "open" as ForkAt,
  /** All strings are gone through once more. */
  second_pass: false,
  /** Movable frets are set by the tonic string. */
  frets: false,
  /** Strings known to be far out, such as 6, 1. */
  far: "",
  /** Intervals to be made pure, such as 3-2,6-3:1 (string 6 with string 3 at fret 1). */
  piece: "",
  ear: "practised" as Ear,
  /** What gives the pitch and how far out it is, as answered when the method was chosen. */
  atHand: "" as "" | NonNullable<RankingQuery["at_hand"]>,
  howFar: "" as "" | NonNullable<RankingQuery["how_far"]>,
  /** What was found of the pegs when the instrument was looked over; the exercise has it too. */
  pegs: "" as "" | "slip" | "stick",
};
export type Asked = typeof PLAIN;

type Flag = {
  id: "itself" | "second_pass" | "frets";
  words: string;
  about: string;
  offered: (method: string, fretting: Instrument["fretting"]) => boolean;
};
/** What is chosen of a plan by a tick. */
export const FLAGS: readonly Flag[] = [
  {
    id: "itself",
    words: "Nothing at hand:",
    about: "trust this string as it is",
    offered: fromTrusted,
  },
  {
    id: "second_pass",
    words: "Go round twice",
    about: "strings are far out, or the frame gives",
    offered: () => true,
  },
  {
    id: "frets",
    ...SETS_FRETS,
    offered: setsFrets,
  },
];

export function useAsked(): [Asked, (change: Partial<Asked>) => void] {
  const [search, setSearch] = useSearchParams();
  const asked = read(search);
  const change = useCallback(
    (some: Partial<Asked>) => {
      setSearch(
        (before) => {
          const next = { ...read(before), ...some };
          if (some.instrument) localStorage.setItem(INSTRUMENT_KEY, some.instrument);
          const written = new URLSearchParams(before);
          for (const [key, value] of Object.entries(next)) {
            if (value === PLAIN[key as keyof Asked] && key !== "instrument") written.delete(key);
            else written.set(key, String(value));
          }
          return written;
        },
        { replace: true },
      );
    },
    [setSearch],
  );
  return [asked, change];
}

function read(search: URLSearchParams): Asked {
  const value = (key: string, plain: string | number | boolean) => {
    const text = search.get(key) ?? String(plain);
    if (typeof plain === "boolean") return text === "true";
    if (typeof plain === "string") return text;
    return Number.isFinite(Number(text)) ? Number(text) : plain;
  };
  const instrument = search.get("instrument") ?? localStorage.getItem(INSTRUMENT_KEY) ?? "guitar";
  const found = Object.entries(PLAIN).map(([key, plain]) => [key, value(key, plain)]);
  return { ...Object.fromEntries(found), instrument } as Asked;
}

/** The instrument and its tuning, as the server asks for them. */
export function tuningQuery(asked: Asked) {
  const own = asked.tuning === OWN_NOTES;
  return {
    instrument: asked.instrument,
    tuning: own ? "standard" : asked.tuning,
    ...(own && asked.notes ? { notes: asked.notes } : {}),
    ...(asked.tonic ? { tonic: asked.tonic } : {}),
  };
}

/** Whether a string is trusted as it is: a method that matches string with string can do so. */
function trusts(asked: Asked, method: string): boolean {
  return asked.itself && fromTrusted(method);
}

// What concerns only the page, or is worked out below.
const NOT_ASKED: readonly string[] = [
  "from",
  "from_notes",
  "atHand",
  "howFar",
  "pegs",
  "sounded",
  "method",
];

/** A plan's query; `method` another than the one chosen, for a comparison. */
export function planQuery(asked: Asked, method: string = asked.method): PlanQuery {
  const idle = {
    tuning: true,
    notes: true,
    tonic: true,
    fifth_cents: asked.temperament !== "fifths",
    share: asked.temperament !== "sweetened",
    offsets: asked.temperament !== "custom",
    piece: asked.temperament !== "piece",
    itself: !trusts(asked, method),
    far: !asked.second_pass,
    frets: !methodOf(method)?.sets_frets,
  };
  const said = Object.entries(asked).filter(
    ([key, value]) => value !== "" && !NOT_ASKED.includes(key) && !idle[key as keyof typeof idle],
  );
  return {
    ...Object.fromEntries(said),
    ...tuningQuery(asked),
    naming: naming(),
    ...(method ? { method } : {}),
    ...(asked.start ? { start: Number(asked.start) } : {}),
    ...(soundedBy(asked, method) ? { sounded: true } : {}),
  };
}

/** What sounds the reference: a piano where notes are at hand, otherwise what is usual. */
function soundedBy(asked: Asked, method: string): "" | "piano" {
  const hears = method === "each" || methodOf(method)?.from_fork;
  return asked.atHand === "notes" && hears && !trusts(asked, method) ? "piano" : "";
}

const STARTS: Record<string, StartKind> = { hair: "hair", out: "month", slack: "slack" };
const OF_PEGS: Record<Asked["pegs"], Behaviour[]> = { "": [], slip: ["pegs"], stick: ["sticking"] };

/** What is prepared, as an exercise that starts at once. A temperament other than the method's own
 * is handed on as where its plan wants each string. */
export function practised(asked: Asked, method: string, plan?: Plan, from = ""): Exercise {
  const own = asked.tuning === OWN_NOTES;
  const chosen = asked.temperament !== "own" && asked.temperament !== "fifths" && plan;
  const offsets = chosen
    ? plan.strings.toSorted((a, b) => a.number - b.number).map((one) => one.equal_cents)
    : [];
  return {
    instrument: asked.instrument,
    tuning: own ? asked.notes : asked.tuning,
    method,
    a4_hz: asked.a4_hz,
    fifth_cents: asked.temperament === "fifths" ? asked.fifth_cents : null,
    offsets_cents: method === "unison" ? [] : offsets,
    start: from ? "retune" : (STARTS[asked.howFar ?? ""] ?? "month"),
    source: soundedBy(asked, method),
    came_from: from,
    first_string: Number(asked.start) || 0,
    itself: trusts(asked, method),
    order: asked.order,
    fork_at: asked.fork_at,
    frets: (asked.frets && methodOf(method)?.sets_frets) ?? false,
    behaviours: [
      ...OF_PEGS[asked.pegs],
      ...(from || asked.second_pass ? (["coupling"] as const) : []),
    ],
    aid: method === "tuner" ? "tuner" : "ripple",
  };
}
