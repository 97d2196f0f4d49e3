// Noise from a counter, the same for a frame whatever comes before: as in meldrin.core.sound.render.

import type { components } from "../api/schema";
import { WANDERS_PER_S } from "./constants";

/** A number within -1 to 1 for a seed and a count; the mixing of bits is lowbias32 (Wellons, 2018). */
export function counted(seed: number, count: number): number {
  let x = (count + Math.imul(seed, 0x9e3779b9)) | 0;
  x = Math.imul(x ^ (x >>> 16), 0x7feb352d);
  x = Math.imul(x ^ (x >>> 15), 0x846ca68b);
  return ((x ^ (x >>> 16)) >>> 0) / 2 ** 31 - 1;
}

/** What is heard beside a tone: counted noise through a short filter, a window over a cosine. */
export class Noise {
  private readonly taps: Float64Array;
  private readonly decay: number;
  private counts = new Float64Array(0);

  constructor(
    private readonly noise: components["schemas"]["Noise"],
    rate: number,
    private readonly seed: number,
    private readonly sustained: number,
  ) {
    const size = Math.max(3, Math.floor((2 * rate) / noise.width_hz + 0.5));
    const taps = new Float64Array(size).map((_, k) => {
      const window = 0.5 - 0.5 * Math.cos((2 * Math.PI * (k + 1)) / (size + 1));
      return window * Math.cos((2 * Math.PI * noise.hz * (k - (size - 1) / 2)) / rate);
    });
    const power = taps.reduce((sum, tap) => sum + tap * tap, 0);
    this.taps = taps.map((tap) => tap / Math.sqrt(power / 3));
    this.decay = noise.decay_s * rate;
  }

  /** Add frames m to m + n of the voice. */
  add(sum: Float64Array, m: number, n: number): void {
    let level = this.noise.level * Math.exp(-Math.max(0, m - this.sustained) / this.decay);
    if (level < 1e-7) return;
    const size = this.taps.length;
    if (this.counts.length < n + size) this.counts = new Float64Array(n + size);
    const counts = this.counts;
    for (let i = 0; i < n + size - 1; i++) counts[i] = counted(this.seed, m - size + 1 + i);
    const falling = Math.exp(-1 / this.decay);
    for (let i = 0; i < n; i++) {
      let band = 0;
      for (let k = 0; k < size; k++) band += (this.taps[k] ?? 0) * (counts[i + k] ?? 0);
      sum[i] = (sum[i] ?? 0) + level * band;
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
