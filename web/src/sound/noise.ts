// Noise from a counter, the same for a frame whatever comes before: as in meldrin.core.sound.render.

import type { components } from "../api/schema";
import { DROPS_EVERY, INAUDIBLE, WANDERS_PER_S } from "./constants";

/** A number within -1 to 1 for a seed and a count; the mixing of bits is lowbias32 (Wellons, 2018). */
export function counted(seed: number, count: number): number {
  let x = (count + Math.imul(seed, 0x9e3779b9)) | 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d);
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b);
  return ((x ^ (x >>> 16)) >>> 0) / 2 ** 31 - 1;
}

/** What is heard beside a tone: two counters, in straight lines from one number to the next as often
 * as the band is wide, over a cosine and a sine. */
export class Noise {
  private readonly decay: number;
  private readonly gone: number;
  private readonly perFrame: number;
  private readonly turn: number;

  constructor(
    private readonly noise: components["schemas"]["Noise"],
    rate: number,
    private readonly seed: number,
    private readonly sustained: number,
  ) {
    this.perFrame = noise.width_hz / rate;
    this.turn = (2 * Math.PI * noise.hz) / rate;
    this.decay = noise.decay_s * rate;
    const falls = Math.log(Math.max(noise.level, INAUDIBLE) / INAUDIBLE);
    this.gone = sustained + Math.ceil((this.decay * falls) / DROPS_EVERY) * DROPS_EVERY;
  }

  /** Add frames m to m + n of the voice. */
  add(sum: Float64Array, m: number, n: number): void {
    const last = Math.min(n, this.gone - m);
    if (last <= 0) return;
    const seed = 2 * this.seed;
    const falling = Math.exp(-1 / this.decay);
    const turnSin = Math.sin(this.turn);
    const turnCos = Math.cos(this.turn);
    let sin = Math.sin(this.turn * m);
    let cos = Math.cos(this.turn * m);
    let level = Math.sqrt(4.5) * this.noise.level;
    level *= Math.exp(-Math.max(0, m - this.sustained) / this.decay);
    let number = Number.NaN;
    let [a, toA, b, toB] = [0, 0, 0, 0];
    for (let i = 0; i < last; i++) {
      const place = (m + i) * this.perFrame;
      const before = Math.floor(place);
      if (before !== number) {
        number = before;
        a = counted(seed, number);
        toA = counted(seed, number + 1) - a;
        b = counted(seed + 1, number);
        toB = counted(seed + 1, number + 1) - b;
      }
      const way = place - before;
      sum[i] = (sum[i] ?? 0) + level * ((a + toA * way) * cos - (b + toB * way) * sin);
      const next = sin * turnCos + cos * turnSin;
      cos = cos * turnCos - sin * turnSin;
      sin = next;
      if (m + i >= this.sustained) level *= falling;
    }
  }
}

/** A bow's level, which wanders a little and slowly. */
export class BowLevel {
  constructor(
    private readonly depth: number,
    private readonly rate: number,
    private readonly seed: number,
  ) {}

  at(m: number): number {
    const place = (m * WANDERS_PER_S) / this.rate;
    const before = Math.floor(place);
    const way = 0.5 - 0.5 * Math.cos(Math.PI * (place - before));
    const first = counted(~this.seed, before);
    return 1 + this.depth * (first + (counted(~this.seed, before + 1) - first) * way);
  }
}
