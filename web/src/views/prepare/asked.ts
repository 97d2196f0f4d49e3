// What is being prepared, kept in the address: it survives a reload, and a teacher can send it on.

import { useCallback } from "react";
import { useSearchParams } from "react-router";
import type { Method, PlanQuery } from "../../api/client";

export type Asked = {
  instrument: string;
  tuning: string;
  from: string;
  notes: string;
  a4: number;
  method: Method | "";
  temperament: Temperament;
  fifth: number;
  tonic: string;
  share: number;
  offsets: string;
  reason: string;
  start: string;
  ear: Ear;
};
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
  ear: "practised",
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
    method: text("method") as Method | "",
    temperament: text("temperament") as Temperament,
    fifth: number("fifth"),
    tonic: text("tonic"),
    share: number("share"),
    offsets: text("offsets"),
    reason: text("reason"),
    start: text("start"),
    ear: text("ear") as Ear,
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

/** A plan's query; `method` another than the one chosen, for a comparison. */
export function planQuery(asked: Asked, method: Method | "" = asked.method) {
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
    ear: asked.ear,
  };
}

/** Where what is prepared can be practised. */
export function benchPath(asked: Asked, method: Method | "", from = ""): string {
  const search = new URLSearchParams({ instrument: asked.instrument });
  const own = asked.tuning === OWN_NOTES;
  search.set("tuning", own ? asked.notes : asked.tuning);
  if (method) search.set("method", method);
  if (asked.a4 !== PLAIN.a4) search.set("a4", String(asked.a4));
  if (asked.temperament === "fifths") search.set("fifth", String(asked.fifth));
  if (asked.temperament === "equal" && method === "fifths") search.set("fifth", "-1.955");
  if (from) {
    search.set("start", "retune");
    search.set("from", from);
  }
  return `/tune?${search.toString()}`;
}
