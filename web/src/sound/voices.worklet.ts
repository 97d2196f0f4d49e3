// The audio worklet: plays voices from tables of partials, and tells how the watched pair beats.

import { KNEE } from "./constants";
import { Mixer, type ToWorklet } from "./mixer";
import type { SoundEvent } from "./voice";

type Timed = { frame: number; at: number; event: SoundEvent };

const BLOCKS_PER_BEAT_MESSAGE = 4;

function limited(x: number): number {
  const size = Math.abs(x);
  if (size <= KNEE) return x;
  return Math.sign(x) * (KNEE + (1 - KNEE) * Math.tanh((size - KNEE) / (1 - KNEE)));
}

class VoicesProcessor extends AudioWorkletProcessor {
  private readonly mixer = new Mixer(sampleRate, (message) => this.port.postMessage(message));
  private queue: Timed[] = [];
  private blocks = 0;
  private sum = new Float64Array(128);

  constructor(options?: AudioWorkletNodeOptions) {
    super();
    const score: [number, SoundEvent][] = options?.processorOptions?.score ?? [];
    this.mixer.watch = options?.processorOptions?.watch ?? null;
    this.queue = score.map(([at, event]) => ({ frame: Math.round(at * sampleRate), at, event }));
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) =>
      this.mixer.take(data, currentFrame, currentTime);
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
        if (due) this.mixer.apply(due.frame, due.at, due.event);
      }
      const until = Math.min(end, this.queue[0]?.frame ?? end);
      this.mixer.add(sum.subarray(begin - currentFrame), begin, until);
      begin = until;
    }
    for (let i = 0; i < out.length; i++) out[i] = limited(sum[i] ?? 0);
    for (const channel of outputs[0]?.slice(1) ?? []) channel.set(out);
    this.mixer.forget(end);
    this.blocks++;
    if (this.blocks % BLOCKS_PER_BEAT_MESSAGE === 0) this.mixer.tellBeat(end, currentTime);
    return true;
  }
}

registerProcessor("meldrin-voices", VoicesProcessor);
