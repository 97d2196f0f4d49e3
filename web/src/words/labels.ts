// What the strings of an attempt are called.

import type { AttemptPage } from "../api/client";

export type BenchString = AttemptPage["strings"][number];

export function labelOf(page: AttemptPage, number: number | null): string {
  if (number === null) return `the ${page.reference.words}`;
  return page.strings.find((string) => string.number === number)?.label ?? "";
}

export function stringOf(page: AttemptPage, number: number): BenchString {
  const found = page.strings.find((string) => string.number === number);
  if (!found) throw new Error(`no string ${number}`);
  return found;
}
