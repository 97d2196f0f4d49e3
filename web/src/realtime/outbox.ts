// What has been done and is not yet known to be on disk. Kept in the browser's storage as well, so
// that neither a lost line nor a reload loses a turn.

export type Kept<Action> = { number: number; at_s: number; action: Action };

/** What the browser's storage does for an outbox. */
export type Shelf = Pick<Storage, "getItem" | "setItem" | "removeItem">;

export class Outbox<Action> {
  private entries: Kept<Action>[];

  constructor(
    private readonly key: string,
    private readonly shelf: Shelf = localStorage,
  ) {
    this.entries = stored(shelf, key);
  }

  get all(): readonly Kept<Action>[] {
    return this.entries;
  }

  get last(): Kept<Action> | undefined {
    return this.entries.at(-1);
  }

  add(entry: Kept<Action>): void {
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
    if (this.entries.length === 0) this.shelf.removeItem(this.key);
    else this.shelf.setItem(this.key, JSON.stringify(this.entries));
  }
}

function stored<Action>(shelf: Shelf, key: string): Kept<Action>[] {
  try {
    const entries: unknown = JSON.parse(shelf.getItem(key) ?? "[]");
    return Array.isArray(entries) ? (entries as Kept<Action>[]) : [];
  } catch {
    return [];
  }
}
