// Answers as they stand, on every page that has some: with the key of each.

type Answer = { id: string; words: string };
type Asked = { answers: Answer[]; order: "upwards" | "listed" };
export type Keyed = Answer & { number: number; key: string };

const FEW_KEYS: Record<number, readonly string[]> = { 2: ["J", "L"], 3: ["J", "K", "L"] };
// No key is the name of a note, which answers speak of; T is for tapping.
const MANY_KEYS = "JKLMNOPQRSUVWXYZI";

/** The answers as they stand: what is higher above what is lower, or as they are listed. */
export function laidOut({ answers, order }: Asked): Keyed[] {
  const numbered = answers.map((answer, number) => ({ ...answer, number }));
  const stand = order === "upwards" ? numbered.toReversed() : numbered;
  return stand.map((one, place) => ({
    ...one,
    key: FEW_KEYS[answers.length]?.[one.number] ?? MANY_KEYS[place] ?? "",
  }));
}
