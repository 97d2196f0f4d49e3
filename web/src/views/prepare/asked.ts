// What is being prepared, kept in the address: it survives a reload, and a teacher can send it on.

import { useCallback } from "react";
import { useSearchParams } from "react-router";
import type {
  Behaviour,
  Exercise,
  Plan,
  PlanQuery,
  RankingQuery,
  StartKind,
} from "../../api/client";
import { fromTrusted, methodOf } from "../../words/names";

export type Asked = {
  instrument: string;
  tuning: string;
  from: string;
  notes: string;
  a4: number;
  method: string;
  temperament: Temperament;
  fifth: number;
  tonic: string;
  share: number;
  offsets: string;
  reason: string;
  start: string;
  /** Nothing is at hand: the string to begin with is trusted as it is. */
  itself: boolean;
  order: Order;
  /** The fork is matched with the open string or with its harmonic. */
  forkAt: ForkAt;
  /** All strings are gone through once more. */
  twice: boolean;
  /** Strings known to be far out, such as 6, 1. */
  far: string;
  /** Intervals to be made pure, such as 3-2,6-3:1 (string 6 with string 3 at fret 1). */
  piece: string;
  ear: Ear;
  /** What gives the pitch and how far out it is, as answered when the method was chosen. */
  atHand: "" | RankingQuery["at_hand"];
  howFar: "" | RankingQuery["how_far"];
  /** What was found of the pegs when the instrument was looked over; the exercise has it too. */
  pegs: "" | "slip" | "stick";
};
export type Order = NonNullable<PlanQuery["order"]>;
export type ForkAt = NonNullable<PlanQuery["fork_at"]>;
export type Temperament = NonNullable<PlanQuery["temperament"]>;
export type Ear = NonNullable<PlanQuery["ear"]>;

export const OWN_NOTES = "own-notes";
const INSTRUMENT_KEY = "meldrin:instrument";

const PLAIN: Asked = {
  instrument: "guitar",
  tuning: "standard",
  from: "standard",
  notes: "",
  a4: 440,
  method: "",
  temperament: "own",
  fifth: -1,
  tonic: "",
  share: 0.5,
  offsets: "",
  reason: "",
  start: "",
  itself: false,
  order: "usual",
  forkAt: "open",
  twice: false,
  far: "",
  piece: "",
  ear: "practised",
  atHand: "",
  howFar: "",
  pegs: "",
};

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
  const text = (key: keyof Asked) => search.get(key) ?? String(PLAIN[key]);
  const number = (key: "a4" | "fifth" | "share") => {
    const value = Number(text(key));
    return Number.isFinite(value) ? value : PLAIN[key];
  };
  return {
    instrument: search.get("instrument") ?? localStorage.getItem(INSTRUMENT_KEY) ?? "guitar",
    tuning: text("tuning"),
    from: text("from"),
    notes: text("notes"),
    a4: number("a4"),
    method: text("method"),
    temperament: text("temperament") as Temperament,
    fifth: number("fifth"),
    tonic: text("tonic"),
    share: number("share"),
    offsets: text("offsets"),
    reason: text("reason"),
    start: text("start"),
    itself: text("itself") === "true",
    order: text("order") as Order,
    forkAt: text("forkAt") as ForkAt,
    twice: text("twice") === "true",
    far: text("far"),
    piece: text("piece"),
    ear: text("ear") as Ear,
    atHand: text("atHand") as Asked["atHand"],
    howFar: text("howFar") as Asked["howFar"],
    pegs: text("pegs") as Asked["pegs"],
  };
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

/** A plan's query; `method` another than the one chosen, for a comparison. */
export function planQuery(asked: Asked, method: string = asked.method) {
  return {
    ...tuningQuery(asked),
    ...(method ? { method } : {}),
    a4_hz: asked.a4,
    temperament: asked.temperament,
    ...(asked.temperament === "fifths" ? { fifth_cents: asked.fifth } : {}),
    ...(asked.temperament === "sweetened" ? { share: asked.share } : {}),
    ...(asked.temperament === "custom" ? { offsets: asked.offsets } : {}),
    ...(asked.reason ? { reason: asked.reason } : {}),
    ...(asked.start ? { start: Number(asked.start) } : {}),
    ...(trusts(asked, method) ? { itself: true } : {}),
    ...(soundedBy(asked, method) ? { sounded: true } : {}),
    order: asked.order,
    fork_at: asked.forkAt,
    second_pass: asked.twice,
    ...(asked.twice && asked.far ? { far: asked.far } : {}),
    ...(asked.temperament === "piece" ? { piece: asked.piece } : {}),
    ear: asked.ear,
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
    a4_hz: asked.a4,
    fifth_cents: asked.temperament === "fifths" ? asked.fifth : null,
    offsets_cents: method === "unison" ? [] : offsets,
    start: from ? "retune" : (STARTS[asked.howFar ?? ""] ?? "month"),
    source: soundedBy(asked, method),
    came_from: from,
    first_string: Number(asked.start) || 0,
    itself: trusts(asked, method),
    order: asked.order,
    fork_at: asked.forkAt,
    behaviours: [...OF_PEGS[asked.pegs], ...(from || asked.twice ? (["coupling"] as const) : [])],
    aid: method === "tuner" ? "tuner" : "ripple",
  };
}
