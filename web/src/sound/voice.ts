// One sounding voice: the same arithmetic as meldrin.core.sound.render, a block at a time.
// Frame m of a partial is a exp(-m/(tau rate)) sin(phase), and the phase grows by 2 pi f/rate; while a
// bow or a breath keeps it up it does not fall, and a hard stroke begins sharp.

import type { components } from "../api/schema";
import { DROPS_EVERY, FADES_UNTIL_GONE, INAUDIBLE, LASTS_DECAYS, SHARP_FALLS } from "./constants";
import { BowLevel, Noise } from "./noise";

export type SoundEvent =
  | components["schemas"]["Start"]
  | components["schemas"]["Retune"]
  | components["schemas"]["Release"];
export type Start = components["schemas"]["Start"];

const SETTLES_S = 0.06;
const CHUNK = 16;

/** Add a wave that falls as it swings: two values of it give the next. */
function addSteady(
  sum: Float64Array,
  from: number,
  until: number,
  phase: number,
  step: number,
  level: number,
  falling: number,
): void {
  const turn = 2 * falling * Math.cos(step);
  const loss = falling * falling;
  let now = level * Math.sin(phase);
  let next = level * falling * Math.sin(phase + step);
  for (let i = from; i < until; i++) {
    sum[i] = (sum[i] ?? 0) + now;
    const after = turn * next - loss * now;
    now = next;
    next = after;
  }
}

/** The same of a wave whose frequency bends: even in pieces, each a little further than the last. */
function addBending(
  sum: Float64Array,
  from: number,
  until: number,
  phase: number,
  step: number,
  bend: number,
  level: number,
  falling: number,
): void {
  const first = step + (bend * (CHUNK - 1)) / 2;
  let sin = level * Math.sin(phase);
  let cos = level * Math.cos(phase);
  let turnSin = falling * Math.sin(first);
  let turnCos = falling * Math.cos(first);
  const bendSin = Math.sin(bend * CHUNK);
  const bendCos = Math.cos(bend * CHUNK);
  for (let at = from; at < until; at += CHUNK) {
    const end = Math.min(until, at + CHUNK);
    for (let i = at; i < end; i++) {
      sum[i] = (sum[i] ?? 0) + sin;
      const next = sin * turnCos + cos * turnSin;
      cos = cos * turnCos - sin * turnSin;
      sin = next;
    }
    const turned = turnSin * bendCos + turnCos * bendSin;
    turnCos = turnCos * bendCos - turnSin * bendSin;
    turnSin = turned;
  }
}

export class Voice {
  private readonly count: number;
  private readonly number: Float64Array;
  private readonly beside: Float64Array;
  private readonly phase: Float64Array;
  private readonly from: Float64Array;
  private readonly goal: Float64Array;
  private readonly decayFrames: Float64Array;
  private readonly amplitude: Float64Array;
  private readonly secondDecay: Float64Array | null;
  private readonly second: Float64Array;
  private readonly gone: Float64Array;
  private readonly secondGone: Float64Array | null;
  private readonly noise: Noise | null;
  private readonly bowLevel: BowLevel | null;
  private readonly swell: number;
  private readonly swellFrames: number;
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
    const seconds = table.second_decays_s ?? [];
    this.secondDecay = seconds.length > 0 ? Float64Array.from(seconds, (one) => one * rate) : null;
    this.second = Float64Array.from(table.second_amplitudes ?? []);
    this.attack = Math.round(table.attack_s * rate);
    this.sustained = Math.round((table.sustain_s ?? 0) * rate);
    const lasts = (table.sustain_s ?? 0) + LASTS_DECAYS * Math.max(...table.decays_s, ...seconds);
    this.last = Math.round(lasts * rate);
    this.gone = this.amplitude.map((one, k) => this.goneAfter(one, this.decayFrames[k] ?? 1));
    this.secondGone =
      this.secondDecay?.map((decay, k) => this.goneAfter(this.second[k] ?? 0, decay)) ?? null;
    this.noise = table.noise ? new Noise(table.noise, rate, start.voice, this.sustained) : null;
    this.bowLevel = table.unsteady ? new BowLevel(table.unsteady, rate, start.voice) : null;
    this.swell = table.swell ?? 0;
    this.swellFrames = (table.swell_s ?? 0.1) * rate;
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
    const at = Math.max(0, frame - this.first);
    if (at < this.releasedAt) {
      this.releasedAt = at;
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
    for (let from = 0; from < n;) {
      const until = this.nextChange(m + from, m + n) - m;
      for (let k = 0; k < this.count; k++) this.addPartial(sum, k, m, from, until);
      from = until;
    }
    this.noise?.add(sum, m, n);
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

  /** From which frame on a part of a partial is too faint to be made. */
  private goneAfter(amplitude: number, decayFrames: number): number {
    const size = Math.max(Math.abs(amplitude), INAUDIBLE);
    const falls = Math.ceil((decayFrames * Math.log(size / INAUDIBLE)) / DROPS_EVERY);
    return this.sustained + falls * DROPS_EVERY;
  }

  /** The next frame at which a glide, a sharp start or a bow's stroke is over; at most `end`. */
  private nextChange(m: number, end: number): number {
    let next = end;
    for (const change of [this.glideFrom + this.glideFrames, this.sharpUntil, this.sustained])
      if (change > m && change < next) next = change;
    return next;
  }

  /** Add frames m + from to m + until of a partial; nothing but its phase changes its way between. */
  private addPartial(sum: Float64Array, k: number, m: number, from: number, until: number): void {
    const begin = m + from;
    const n = until - from;
    const phase = this.phase[k] ?? 0;
    const advance = this.advance(k, begin, n);
    this.phase[k] = (phase + advance) % (2 * Math.PI);
    const level = this.firstLevel(k, begin);
    const second = this.secondLevel(k, begin);
    if (level === 0 && second === 0) return;
    const falls = begin >= this.sustained;
    const falling = falls ? Math.exp(-1 / (this.decayFrames[k] ?? 1)) : 1;
    const secondFalling = falls && this.secondDecay ? Math.exp(-1 / (this.secondDecay[k] ?? 1)) : 1;
    if (this.moves(begin)) {
      const step = (2 * Math.PI * this.frequency(k, begin)) / this.rate;
      const bend = n > 1 ? (2 * (advance - n * step)) / (n * (n - 1)) : 0;
      if (level !== 0) addBending(sum, from, until, phase, step, bend, level, falling);
      if (second !== 0) addBending(sum, from, until, phase, step, bend, second, secondFalling);
    } else {
      const step = advance / n;
      if (level !== 0) addSteady(sum, from, until, phase, step, level, falling);
      if (second !== 0) addSteady(sum, from, until, phase, step, second, secondFalling);
    }
  }

  private moves(m: number): boolean {
    return m < this.glideFrom + this.glideFrames || (this.sharp !== null && m < this.sharpUntil);
  }

  /** By how much the phase of a partial grows over n frames, on which it glides or does not. */
  private advance(k: number, m: number, n: number): number {
    const per = (2 * Math.PI) / this.rate;
    let hz = n * this.gliding(k, m);
    if (m < this.glideFrom + this.glideFrames) {
      const slope = ((this.goal[k] ?? 0) - (this.from[k] ?? 0)) / this.glideFrames;
      hz += (slope * n * (n - 1)) / 2;
    }
    if (this.sharp && m < this.sharpUntil) {
      const share = Math.exp(-m / this.sharpFall) * -Math.expm1(-n / this.sharpFall);
      hz += ((this.sharp[k] ?? 0) * share) / -Math.expm1(-1 / this.sharpFall);
    }
    return per * hz;
  }

  private level(k: number, m: number): number {
    return this.firstLevel(k, m) + this.secondLevel(k, m);
  }

  private firstLevel(k: number, m: number): number {
    if (m >= (this.gone[k] ?? 0)) return 0;
    const falling = Math.max(0, m - this.sustained);
    return (this.amplitude[k] ?? 0) * Math.exp(-falling / (this.decayFrames[k] ?? 1));
  }

  private secondLevel(k: number, m: number): number {
    if (!this.secondDecay || m >= (this.secondGone?.[k] ?? 0)) return 0;
    const falling = Math.max(0, m - this.sustained);
    return (this.second[k] ?? 0) * Math.exp(-falling / (this.secondDecay[k] ?? 1));
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
    let onset = m < this.attack ? 0.5 - 0.5 * Math.cos((Math.PI * m) / this.attack) : 1;
    if (this.swell > 0) onset *= 1 - this.swell * Math.exp(-m / this.swellFrames);
    if (this.bowLevel) onset *= this.bowLevel.at(m);
    if (m < this.releasedAt) return onset;
    const since = m - this.releasedAt;
    if (since >= Math.round(FADES_UNTIL_GONE * this.fade)) return 0;
    return onset * Math.exp(-since / this.fade);
  }
}
