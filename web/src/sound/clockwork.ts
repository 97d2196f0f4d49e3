// Where a machine has no sound to give: the same voices by the clock, so that the picture goes on.

import { type FromWorklet, Mixer, type ToWorklet } from "./mixer";

const RATE = 48_000;
const EVERY_MS = 12; // about as often as the worklet tells

export class Clockwork {
  private readonly began = performance.now();
  private readonly mixer: Mixer;
  private readonly timer: ReturnType<typeof setInterval>;

  constructor(tell: (message: FromWorklet) => void) {
    this.mixer = new Mixer(RATE, tell);
    this.timer = setInterval(() => {
      const { at, frame } = this.now();
      this.mixer.forget(frame);
      this.mixer.tellBeat(frame, at);
    }, EVERY_MS);
  }

  take(message: ToWorklet): void {
    const { at, frame } = this.now();
    this.mixer.take(message, frame, at);
  }

  stop(): void {
    clearInterval(this.timer);
  }

  private now(): { at: number; frame: number } {
    const at = (performance.now() - this.began) / 1000;
    return { at, frame: Math.round(at * RATE) };
  }
}
