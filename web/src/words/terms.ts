// The words of the glossary, and where they stand in a text.

import { names, type Names } from "./names";

export type Word = Names["words"][number];

type Part = string | { word: Word; written: string };

let pattern: RegExp | null = null;
let byText: Map<string, Word> | null = null;

function table(): [RegExp, Map<string, Word>] {
  if (!pattern || !byText) {
    byText = new Map(
      names().words.flatMap((word) => word.words.map((text) => [text, word] as const)),
    );
    const all = [...byText.keys()].sort((a, b) => b.length - a.length);
    pattern = new RegExp(`\\b(${all.join("|")})\\b`, "gi");
  }
  return [pattern, byText];
}

/** A text cut at its words of the glossary; each word is marked where it first stands. */
export function cutAtTerms(text: string): Part[] {
  const [all, known] = table();
  const seen = new Set<string>();
  return text.split(all).flatMap((part): Part[] => {
    const word = known.get(part.toLowerCase());
    if (!word || seen.has(word.id)) return part ? [part] : [];
    seen.add(word.id);
    return [{ word, written: part }];
  });
}
