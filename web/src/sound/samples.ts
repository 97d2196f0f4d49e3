// Sounds that come as samples: a plain buffer, which every page may play, by the same level as all.

import { factor, player } from "./player";

const WAITS_MS = 1500;

/** How what was to sound is doing: it plays, or this machine gives no sound. */
export type Heard = "plays" | "mute";

export class Samples {
  private context: AudioContext | null = null;
  private gain: GainNode | null = null;
  private source: AudioBufferSourceNode | null = null;
  private forget: (() => void) | null = null;

  /** Make sound possible; to be called from a press. */
  start(): void {
    if (this.context === null) {
      this.context = new AudioContext();
      const gain = new GainNode(this.context, { gain: factor(player.level) });
      gain.connect(this.context.destination);
      this.gain = gain;
      this.forget = player.onLevel(() => {
        gain.gain.value = factor(player.level);
      });
    }
    void this.context.resume();
  }

  /** Play samples from -1 to 1; what sounded before stops. */
  async play(samples: Float32Array<ArrayBuffer>, rate: number): Promise<Heard> {
    this.start();
    const { context, gain } = this;
    if (!context || !gain) return "mute";
    this.source?.stop();
    const buffer = context.createBuffer(1, samples.length, rate);
    buffer.copyToChannel(samples, 0);
    const source = new AudioBufferSourceNode(context, { buffer });
    source.connect(gain);
    source.start();
    this.source = source;
    const late = new Promise((done) => setTimeout(done, WAITS_MS));
    await Promise.race([context.resume(), late]);
    return context.state === "running" ? "plays" : "mute";
  }

  stop(): void {
    this.source?.stop();
    this.source = null;
  }

  close(): void {
    this.forget?.();
    void this.context?.close();
    this.context = this.gain = this.source = this.forget = null;
  }
}

/** 16-bit samples, little-endian, in base 64, as numbers from -1 to 1. */
export function fromBase64(text: string): Float32Array<ArrayBuffer> {
  const bytes = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  const samples = new Float32Array(bytes.length / 2);
  for (let n = 0; n < samples.length; n++) samples[n] = view.getInt16(2 * n, true) / 32768;
  return samples;
}
