// What things are called on screen. The names come from the API, once, before the page is drawn.

import { api, type Aid, type Behaviour, type Instrument, said, type Schemas } from "../api/client";

export type Names = Schemas["Names"];
type Kind = Exclude<keyof Names, "methods" | "words" | "rounds">;

let loaded: Names | null = null;

/** Fetch the names; to be waited for before anything is drawn. */
export async function loadNames(): Promise<void> {
  loaded = await said(api.GET("/api/names"));
}

export function names(): Names {
  if (!loaded) throw new Error("the names are not there yet");
  return loaded;
}

/** All of a kind as options to choose from, in their order. */
export function optionsOf<Id extends string>(kind: Kind) {
  return names()[kind].map(({ id, name, about }) => ({ id: id as Id, words: name, about }));
}

function find(kind: Kind, id: string) {
  return names()[kind].find((one) => one.id === id);
}

export const nameOf = (kind: Kind, id: string): string => find(kind, id)?.name ?? id;
export const aboutOf = (kind: Kind, id: string): string => find(kind, id)?.about ?? "";

export const AIDS: readonly Aid[] = ["ear", "ripple", "level", "tuner"];

export const methodOf = (id: string) => names().methods.find((one) => one.id === id);

export const methodOptions = () =>
  names().methods.map(({ id, name, about }) => ({ id, words: name, about }));

/** The orders a method can be gone through in; one where the order is its own. */
export function ordersOf(method: string) {
  const orders = methodOf(method)?.orders ?? [];
  return orders.map((id) => ({ id, words: nameOf("orders", id) }));
}

/** Whether a method takes the strings in any order. */
export const anyOrder = (method: string): boolean => ordersOf(method).length > 1;

/** Whether a method goes from one string to the next, and can start from one that is trusted. */
export const fromTrusted = (method: string): boolean => methodOf(method)?.from_trusted ?? false;

const MEETS_A_FORK: readonly string[] = ["A3", "A2", "D3"];

/** Whether a fork's A meets a harmonic of one of the strings: half, a third or a quarter of it. */
export function harmonicMeetsFork(instrument: Instrument): boolean {
  return instrument.strings.some(
    (string) => string.role === "playing" && MEETS_A_FORK.includes(string.note),
  );
}

export const behaviourIds = (): Behaviour[] => names().behaviours.map(({ id }) => id as Behaviour);

/** The tick for it. */
export const SETS_FRETS = { words: "Set the frets", about: "by the tonic string, over the drone" };

/** Whether a method can set the frets of an instrument: where they move. */
export function setsFrets(method: string, fretting: Instrument["fretting"]): boolean {
  return (methodOf(method)?.sets_frets ?? false) && fretting === "movable";
}

/** What a class can judge, by its id; the first one for an id that there is not. */
export function roundOf(id: string): Names["rounds"][number] {
  const [first] = names().rounds;
  const found = names().rounds.find((one) => one.id === id) ?? first;
  if (!found) throw new Error("there is nothing to judge");
  return found;
}
