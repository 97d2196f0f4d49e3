// The voices that sound, and how the watched pair of them beats: the same in the audio worklet and,
// where a machine has no sound to give, by the clock alone.

import { FAINTEST } from "./constants";
import { type SoundEvent, Voice } from "./voice";

/** The two partials whose beat is to be told: voice number and partial, from 0; or one alone. */
export type Watch = { own: [number, number]; other: [number, number] | null };

export type ToWorklet =
  | { kind: "play"; id: number; events: SoundEvent[] }
  | { kind: "watch"; watch: Watch | null }
  | { kind: "hush" };

export type FromWorklet =
  | { kind: "applied"; id: number; at: number; wallMs: number }
  | {
      kind: "beat";
      at: number;
      phase: number;
      hz: number;
      own: number;
      other: number;
      /** Depth of the beat in the third of an octave around it, 0 to 1. */
      depth: number;
    }
  | { kind: "silent" };

const HUSH_S = 0.02;
const SIXTH = 2 ** (1 / 6); // of an octave, to either side

export class Mixer {
  watch: Watch | null = null;
  private readonly voices = new Map<number, Voice>();
  private told = false;

  constructor(
    private readonly rate: number,
    private readonly tell: (message: FromWorklet) => void,
  ) {}

  /** Take a message of the page at a frame, which is `at` seconds since the sound began. */
  take(message: ToWorklet, frame: number, at: number): void {
    if (message.kind === "watch") {
      this.watch = message.watch;
      return;
    }
    if (message.kind === "hush") {
      for (const voice of this.voices.values()) voice.release(frame, HUSH_S);
      return;
    }
    for (const event of message.events) this.apply(frame, at, event);
    this.tell({ kind: "applied", id: message.id, at, wallMs: Date.now() });
  }

  apply(frame: number, at: number, event: SoundEvent): void {
    if (event.kind === "start") {
      const first = Math.round((at + (event.delay_s ?? 0)) * this.rate);
      this.voices.set(event.voice, new Voice(this.rate, first, event));
    } else if (event.kind === "retune") {
      const voice = this.voices.get(event.voice);
      voice?.retune(frame, event.fundamental_hz, event.stiffness, event.glide_s);
    } else {
      const later = Math.round((event.delay_s ?? 0) * this.rate);
      this.voices.get(event.voice)?.release(frame + later, event.fade_s);
    }
  }

  /** Add what sounds from frame `begin` to `until`. */
  add(sum: Float64Array, begin: number, until: number): void {
    for (const voice of this.voices.values()) voice.add(sum, begin, until);
  }

  /** Forget the voices that have died away. */
  forget(end: number): void {
    for (const [number, voice] of this.voices) if (voice.goneAt(end)) this.voices.delete(number);
  }

  tellBeat(frame: number, at: number): void {
    const own = this.watch && this.voices.get(this.watch.own[0]);
    const pair = this.watch?.other ?? null;
    const other = pair && this.voices.get(pair[0]);
    if (!this.watch || !own || (pair && !other)) return this.tellSilence();
    const a = own.partial(this.watch.own[1], frame);
    const b =
      pair && other ? other.partial(pair[1], frame) : { phase: a.phase, level: 0, hz: a.hz };
    const faintest = pair ? Math.min(a.level, b.level) : a.level;
    if (faintest < FAINTEST) return this.tellSilence();
    this.told = false;
    this.tell({
      kind: "beat",
      at,
      phase: a.phase - b.phase,
      hz: Math.abs(a.hz - b.hz),
      own: a.level,
      other: b.level,
      depth: other ? this.depth(a.hz, frame) : 0,
    });
  }

  /** (max - min) / (max + min) of the envelope of all that sounds in the third of an octave around
   * `hz`. Partials drift through each other's phases, so at most their levels add up, and at least
   * the strongest is left of what the others take away. */
  private depth(hz: number, frame: number): number {
    let total = 0;
    let strongest = 0;
    for (const voice of this.voices.values()) {
      for (const level of voice.levelsBetween(hz / SIXTH, hz * SIXTH, frame)) {
        total += level;
        strongest = Math.max(strongest, level);
      }
    }
    const least = Math.max(0, 2 * strongest - total);
    return total > 0 ? (total - least) / (total + least) : 0;
  }

  private tellSilence(): void {
    if (!this.told) this.tell({ kind: "silent" });
    this.told = true;
  }
}
