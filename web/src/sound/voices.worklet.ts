// The audio worklet: plays voices from tables of partials, and tells how the watched pair beats.

import { FAINTEST, KNEE } from "./constants";
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

type Timed = { frame: number; at: number; event: SoundEvent };

const BLOCKS_PER_BEAT_MESSAGE = 4;
const HUSH_S = 0.02;
const SIXTH = 2 ** (1 / 6); // of an octave, to either side

function limited(x: number): number {
  const size = Math.abs(x);
  if (size <= KNEE) return x;
  return Math.sign(x) * (KNEE + (1 - KNEE) * Math.tanh((size - KNEE) / (1 - KNEE)));
}

class VoicesProcessor extends AudioWorkletProcessor {
  private readonly voices = new Map<number, Voice>();
  private queue: Timed[] = [];
  private watch: Watch | null = null;
  private blocks = 0;
  private told = false;
  private sum = new Float64Array(128);

  constructor(options?: AudioWorkletNodeOptions) {
    super();
    const score: [number, SoundEvent][] = options?.processorOptions?.score ?? [];
    this.watch = options?.processorOptions?.watch ?? null;
    this.queue = score.map(([at, event]) => ({ frame: Math.round(at * sampleRate), at, event }));
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => this.take(data);
  }

  private take(message: ToWorklet): void {
    if (message.kind === "watch") {
      this.watch = message.watch;
      return;
    }
    if (message.kind === "hush") {
      for (const voice of this.voices.values()) voice.release(currentFrame, HUSH_S);
      return;
    }
    for (const event of message.events) this.apply(currentFrame, currentTime, event);
    this.tell({ kind: "applied", id: message.id, at: currentTime, wallMs: Date.now() });
  }

  private apply(frame: number, at: number, event: SoundEvent): void {
    if (event.kind === "start") {
      const first = Math.round((at + (event.delay_s ?? 0)) * sampleRate);
      this.voices.set(event.voice, new Voice(sampleRate, first, event));
    } else if (event.kind === "retune") {
      const voice = this.voices.get(event.voice);
      voice?.retune(frame, event.fundamental_hz, event.stiffness, event.glide_s);
    } else {
      this.voices.get(event.voice)?.release(frame, event.fade_s);
    }
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const out = outputs[0]?.[0];
    if (!out) return true;
    if (this.sum.length < out.length) this.sum = new Float64Array(out.length);
    const sum = this.sum.fill(0);
    const end = currentFrame + out.length;
    let begin = currentFrame;
    while (begin < end) {
      while ((this.queue[0]?.frame ?? end) <= begin) {
        const due = this.queue.shift();
        if (due) this.apply(due.frame, due.at, due.event);
      }
      const until = Math.min(end, this.queue[0]?.frame ?? end);
      const part = sum.subarray(begin - currentFrame);
      for (const voice of this.voices.values()) voice.add(part, begin, until);
      begin = until;
    }
    for (let i = 0; i < out.length; i++) out[i] = limited(sum[i] ?? 0);
    for (const channel of outputs[0]?.slice(1) ?? []) channel.set(out);
    for (const [number, voice] of this.voices) if (voice.goneAt(end)) this.voices.delete(number);
    this.blocks++;
    if (this.blocks % BLOCKS_PER_BEAT_MESSAGE === 0) this.tellBeat(end);
    return true;
  }

  private tellBeat(frame: number): void {
    const own = this.watch && this.voices.get(this.watch.own[0]);
    const at = this.watch?.other ?? null;
    const other = at && this.voices.get(at[0]);
    if (!this.watch || !own || (at && !other)) return this.tellSilence();
    const a = own.partial(this.watch.own[1], frame);
    const b = at && other ? other.partial(at[1], frame) : { phase: a.phase, level: 0, hz: a.hz };
    const faintest = at ? Math.min(a.level, b.level) : a.level;
    if (faintest < FAINTEST) return this.tellSilence();
    this.told = false;
    this.tell({
      kind: "beat",
      at: currentTime,
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

  private tell(message: FromWorklet): void {
    this.port.postMessage(message);
  }
}

registerProcessor("meldrin-voices", VoicesProcessor);
