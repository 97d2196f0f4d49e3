// How numbers, times and lists are said.

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

export function day(iso: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
}

/** A size in words: “2.3 cents”, “slack” where there is none. */
export function sizeWords(cents: number | null, digits?: number): string {
  return cents === null
    ? "slack"
    : howFar(cents, digits)
        .replace(/ (low|high)$/, "")
        .replace("in tune", "0 cents");
}
