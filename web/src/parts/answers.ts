// Answers as they stand, on every page that has some: with the key of each. Numbers have none: a
// letter beside a number is read as one more answer, so arrows go from one to the next.

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
    key: isNumber(one) ? "" : (FEW_KEYS[answers.length]?.[one.number] ?? MANY_KEYS[place] ?? ""),
  }));
}

const isNumber = ({ words }: Answer) => words !== "" && !Number.isNaN(Number(words));

/** What arrows do where numbers stand: the next larger one, or the next smaller. */
export function numberKeys(
  rows: readonly Keyed[],
  chosen: number | null,
  choose: (number: number) => void,
): Record<string, () => void> {
  const numbers = rows.filter(isNumber);
  if (numbers.length === 0) return {};
  const go = (step: 1 | -1) => () => {
    const at = numbers.findIndex((one) => one.number === chosen);
    const next = at < 0 ? (step > 0 ? 0 : numbers.length - 1) : at + step;
    choose(numbers[Math.max(0, Math.min(numbers.length - 1, next))]?.number ?? 0);
  };
  return { ArrowRight: go(1), ArrowUp: go(1), ArrowLeft: go(-1), ArrowDown: go(-1) };
}
