// What has been done and is not yet known to be on disk. Kept in the browser's storage as well, so
// that neither a lost line nor a reload loses a turn.

import type { BenchAction } from "../../api/client";

export type Kept = { number: number; at_s: number; action: BenchAction };

export class Outbox {
  private entries: Kept[];

  constructor(private readonly key: string) {
    this.entries = stored(key);
  }

  get all(): readonly Kept[] {
    return this.entries;
  }

  get last(): Kept | undefined {
    return this.entries.at(-1);
  }

  add(entry: Kept): void {
    this.entries.push(entry);
    this.store();
  }

  /** Everything up to this number is on disk. */
  saved(number: number): void {
    this.entries = this.entries.filter((entry) => entry.number > number);
    this.store();
  }

  /** This one was refused and will never be taken. */
  drop(number: number): void {
    this.entries = this.entries.filter((entry) => entry.number !== number);
    this.store();
  }

  private store(): void {
    if (this.entries.length === 0) localStorage.removeItem(this.key);
    else localStorage.setItem(this.key, JSON.stringify(this.entries));
  }
}

function stored(key: string): Kept[] {
  try {
    const entries: unknown = JSON.parse(localStorage.getItem(key) ?? "[]");
    return Array.isArray(entries) ? (entries as Kept[]) : [];
  } catch {
    return [];
  }
}
