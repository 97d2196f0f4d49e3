// What the picture is drawn from: the beat as the speaker plays it, and what was done when.

import type { Scene } from "../api/client";
import type { Beat } from "../sound/player";

export type Ripple = NonNullable<Scene["pair"]>["ripple"];

export type Sample = {
  at: number;
  /** Height of the ripple, -1 to 1; null while the pair does not sound. */
  ripple: number | null;
  hz: number;
  /** Depth of the beat, 0 to 1: how much of the sound comes and goes. */
  depth: number;
  /** How loud the quieter of the two is, in decibels under full scale. */
  loudDb: number;
  cents: number | null;
};

export type Mark = { at: number; words: string };

export const WINDOW_MS = 11_000;
const MOST = 1400;
const ON_THE_WAY_MS = 120;
const RELAX_MS = 0.5;
const FADED_MS = 350;
export const QUIET_DB = -68; // what the speaker plays fainter than this cannot be judged

export class WaterLog {
  samples: Sample[] = [];
  marks: Mark[] = [];
  private cents: number | null = null;
  private clockMs = Number.POSITIVE_INFINITY;
  private heardAt = Number.NEGATIVE_INFINITY;
  private deafUntil = 0;
  private ripple: Ripple = null;
  private drawnCents: number | null = null;

  readonly hear = (beat: Beat): void => {
    const now = performance.now();
    if (now < this.deafUntil) return;
    if (beat.kind === "silent") {
      const at = now;
      this.heardAt = Number.NEGATIVE_INFINITY;
      this.drawnCents = null;
      this.push({ at, ripple: null, hz: 0, depth: 0, loudDb: QUIET_DB, cents: null });
      return;
    }
    // Messages come in bunches; the speaker's own clock spaces them evenly. It may run a little
    // slow, or stand still for a moment under load, so the two are let grow apart again gently.
    this.clockMs = Math.min(this.clockMs + RELAX_MS, now - beat.at * 1000);
    const at = this.clockMs + beat.at * 1000;
    this.heardAt = now;
    const larger = Math.max(beat.own, beat.other);
    const smaller = Math.min(beat.own, beat.other);
    const depth = beat.depth;
    const loudDb = 20 * Math.log10(Math.max(smaller || larger, 1e-6));
    if (this.cents === null) this.drawnCents = null;
    else {
      // Drawn as the ear hears a turn: a short glide, not a jump.
      const before = this.drawnCents ?? this.cents;
      this.drawnCents = before + (this.cents - before) * 0.35;
    }
    this.push({
      at,
      ripple: Math.cos(beat.phase) * depth,
      hz: beat.hz,
      depth,
      loudDb,
      cents: this.drawnCents,
    });
  };

  /** How fast the pair beats, in a word; for the picture that does not move. */
  say(ripple: Ripple): void {
    this.ripple = ripple;
  }

  get word(): Ripple {
    return this.ripple;
  }

  /** The offset to draw the surface at from now on, in cents; null where it may not be shown. */
  show(cents: number | null): void {
    this.cents = cents;
  }

  /** A reading of the tuner: a surface without ripples; null where it hears no one pitch. */
  read(cents: number | null): void {
    const at = performance.now();
    const loudDb = QUIET_DB;
    if (cents === null) this.push({ at, ripple: null, hz: 0, depth: 0, loudDb, cents: null });
    else {
      this.heardAt = at;
      this.push({ at, ripple: 0, hz: 0, depth: 0, loudDb, cents });
    }
  }

  /** Whether the pair can be heard right now, as the speaker plays it. */
  audible(): boolean {
    return performance.now() - this.heardAt < FADED_MS;
  }

  /** Whether there is anything to draw. */
  idle(): boolean {
    const last = Math.max(this.samples.at(-1)?.at ?? 0, this.marks.at(-1)?.at ?? 0);
    return performance.now() - last > WINDOW_MS + 500;
  }

  mark(words: string): void {
    const at = performance.now();
    const last = this.marks.at(-1);
    if (last && last.words === words && at - last.at < 1500) return;
    this.marks = [...this.marks.filter((mark) => at - mark.at < WINDOW_MS), { at, words }];
  }

  /** Begin again; what the speaker still has on the way from before is not taken. */
  clear(): void {
    this.deafUntil = performance.now() + ON_THE_WAY_MS;
    this.samples = [];
    this.heardAt = Number.NEGATIVE_INFINITY;
    this.marks = [];
    this.drawnCents = null;
  }

  private push(sample: Sample): void {
    this.samples.push(sample);
    if (this.samples.length > MOST) this.samples.splice(0, this.samples.length - MOST);
  }
}
