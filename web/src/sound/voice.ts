// One sounding voice: the same arithmetic as meldrin.core.sound.render, a block at a time.
// Frame m of a partial is a exp(-m/(tau rate)) sin(phase), and the phase grows by 2 pi f/rate; while a
// bow or a breath keeps it up it does not fall, and a hard stroke begins sharp.

import type { components } from "../api/schema";
import { FADES_UNTIL_GONE, INAUDIBLE, LASTS_DECAYS, SHARP_FALLS } from "./constants";

export type SoundEvent =
  | components["schemas"]["Start"]
  | components["schemas"]["Retune"]
  | components["schemas"]["Release"];
export type Start = components["schemas"]["Start"];

const SETTLES_S = 0.06;

export class Voice {
  private readonly count: number;
  private readonly number: Float64Array;
  private readonly beside: Float64Array;
  private readonly phase: Float64Array;
  private readonly from: Float64Array;
  private readonly goal: Float64Array;
  private readonly decayFrames: Float64Array;
  private readonly amplitude: Float64Array;
  private readonly attack: number;
  private readonly last: number;
  private readonly sustained: number;
  private readonly sharp: Float64Array | null;
  private readonly sharpFall: number;
  private readonly sharpUntil: number;
  private glideFrom = 0;
  private glideFrames = 0;
  private releasedAt = Number.POSITIVE_INFINITY;
  private fade = 1;
  private scratch = new Float64Array(128);

  constructor(
    private readonly rate: number,
    private readonly first: number,
    start: Start,
  ) {
    const table = start.table;
    this.count = table.amplitudes.length;
    this.number = new Float64Array(this.count).map((_, k) => table.numbers?.[k] ?? k + 1);
    this.beside = new Float64Array(this.count).map((_, k) => 2 ** ((table.cents?.[k] ?? 0) / 1200));
    this.phase = new Float64Array(this.count).map((_, k) => table.phases_rad?.[k] ?? 0);
    this.goal = new Float64Array(this.count);
    this.lay(table.fundamental_hz, table.stiffness ?? 0);
    this.from = Float64Array.from(this.goal);
    this.decayFrames = Float64Array.from(table.decays_s, (decay) => decay * rate);
    this.amplitude = Float64Array.from(table.amplitudes);
    this.attack = Math.round(table.attack_s * rate);
    this.sustained = Math.round((table.sustain_s ?? 0) * rate);
    const lasts = (table.sustain_s ?? 0) + LASTS_DECAYS * Math.max(...table.decays_s);
    this.last = Math.round(lasts * rate);
    const gain = Math.expm1((Math.LN2 * (table.glide_cents ?? 0)) / 1200);
    this.sharp = gain > 0 ? this.goal.map((hz) => hz * gain) : null;
    this.sharpFall = (table.glide_s ?? 0.1) * rate;
    this.sharpUntil = this.sharp ? Math.round(SHARP_FALLS * this.sharpFall) : 0;
  }

  /** Glide to where another series has the partials, from wherever the last glide is now. */
  retune(frame: number, fundamentalHz: number, stiffness: number, glideS: number): void {
    const at = Math.max(0, frame - this.first);
    for (let k = 0; k < this.count; k++) this.from[k] = this.gliding(k, at);
    this.lay(fundamentalHz, stiffness);
    this.glideFrom = at;
    this.glideFrames = Math.round(glideS * this.rate);
  }

  /** Lay the goals where a series has them: n f0 sqrt(1 + B n^2), and the cents beside that. */
  private lay(fundamentalHz: number, stiffness: number): void {
    for (let k = 0; k < this.count; k++) {
      const n = this.number[k] ?? 0;
      this.goal[k] = n * fundamentalHz * Math.sqrt(1 + stiffness * n * n) * (this.beside[k] ?? 1);
    }
  }

  release(frame: number, fadeS: number): void {
    if (this.releasedAt === Number.POSITIVE_INFINITY) {
      this.releasedAt = Math.max(0, frame - this.first);
      this.fade = fadeS * this.rate;
    }
  }

  goneAt(frame: number): boolean {
    const m = frame - this.first;
    return m >= this.last || m >= this.releasedAt + Math.round(FADES_UNTIL_GONE * this.fade);
  }

  /** Add frames [begin, end) to `out`, where out[0] is frame `begin`. */
  add(out: Float64Array, begin: number, end: number): void {
    const skip = Math.max(0, this.first - begin);
    const n = end - begin - skip;
    if (n <= 0) return;
    const m = begin + skip - this.first;
    if (this.scratch.length < n) this.scratch = new Float64Array(n);
    const sum = this.scratch.fill(0, 0, n);
    for (let k = 0; k < this.count; k++) {
      if (this.amplitude[k] === 0) continue;
      if (m < this.glideFrom + this.glideFrames || m < this.sharpUntil)
        this.addMoving(sum, k, m, n);
      else this.addSteady(sum, k, m, n);
    }
    for (let i = 0; i < n; i++) {
      out[skip + i] = (out[skip + i] ?? 0) + (sum[i] ?? 0) * this.shape(m + i);
    }
  }

  /** Phase and amplitude of partial k (from 0) now, at the frame the last block ended with. */
  partial(k: number, frame: number): { phase: number; level: number; hz: number } {
    const m = frame - this.first;
    // A pluck takes a moment to become a tone: until then there is no beat to speak of.
    if (m < SETTLES_S * this.rate) return { phase: 0, level: 0, hz: 0 };
    const level = Math.abs(this.level(k, m));
    const sign = (this.amplitude[k] ?? 0) < 0 ? Math.PI : 0;
    return {
      phase: (this.phase[k] ?? 0) + sign,
      level: level * this.shape(m),
      hz: this.frequency(k, m),
    };
  }

  /** The levels of the partials between two frequencies now. */
  *levelsBetween(lowHz: number, highHz: number, frame: number): Generator<number> {
    for (let k = 0; k < this.count; k++) {
      const goal = this.goal[k] ?? 0;
      if (goal < lowHz || goal > highHz) continue;
      const { level, hz } = this.partial(k, frame);
      if (level > 0 && hz >= lowHz && hz <= highHz) yield level;
    }
  }

  private addSteady(sum: Float64Array, k: number, m: number, n: number): void {
    const step = (2 * Math.PI * (this.goal[k] ?? 0)) / this.rate;
    const phase = this.phase[k] ?? 0;
    this.phase[k] = (phase + step * n) % (2 * Math.PI);
    let level = this.level(k, m);
    if (Math.abs(level) < INAUDIBLE) return;
    const falling = Math.exp(-1 / (this.decayFrames[k] ?? 1));
    const held = this.sustained - m;
    const turnSin = Math.sin(step);
    const turnCos = Math.cos(step);
    let sin = Math.sin(phase);
    let cos = Math.cos(phase);
    for (let i = 0; i < n; i++) {
      sum[i] = (sum[i] ?? 0) + level * sin;
      const next = sin * turnCos + cos * turnSin;
      cos = cos * turnCos - sin * turnSin;
      sin = next;
      if (i >= held) level *= falling;
    }
  }

  private addMoving(sum: Float64Array, k: number, m: number, n: number): void {
    let phase = this.phase[k] ?? 0;
    let level = this.level(k, m);
    if (Math.abs(level) < INAUDIBLE) return; // it only ever gets fainter
    const falling = Math.exp(-1 / (this.decayFrames[k] ?? 1));
    const held = this.sustained - m;
    for (let i = 0; i < n; i++) {
      sum[i] = (sum[i] ?? 0) + level * Math.sin(phase);
      phase += (2 * Math.PI * this.frequency(k, m + i)) / this.rate;
      if (i >= held) level *= falling;
    }
    this.phase[k] = phase % (2 * Math.PI);
  }

  private level(k: number, m: number): number {
    const falling = Math.max(0, m - this.sustained);
    return (this.amplitude[k] ?? 0) * Math.exp(-falling / (this.decayFrames[k] ?? 1));
  }

  private frequency(k: number, m: number): number {
    const hz = this.gliding(k, m);
    if (!this.sharp || m >= this.sharpUntil) return hz;
    return hz + (this.sharp[k] ?? 0) * Math.exp(-m / this.sharpFall);
  }

  private gliding(k: number, m: number): number {
    const from = this.from[k] ?? 0;
    const goal = this.goal[k] ?? 0;
    if (m >= this.glideFrom + this.glideFrames) return goal;
    return from + (goal - from) * Math.max(0, (m - this.glideFrom) / this.glideFrames);
  }

  private shape(m: number): number {
    const onset = m < this.attack ? 0.5 - 0.5 * Math.cos((Math.PI * m) / this.attack) : 1;
    if (m < this.releasedAt) return onset;
    const since = m - this.releasedAt;
    if (since >= Math.round(FADES_UNTIL_GONE * this.fade)) return 0;
    return onset * Math.exp(-since / this.fade);
  }
}
