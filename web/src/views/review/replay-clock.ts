// The clock of a replay: plays what was done, at any speed, from any moment.

import type { ReplayPage } from "../../api/client";
import { player } from "../../sound/player";

export type Frame = ReplayPage["frames"][number];

const LONGEST_STEP_S = 0.25;

export class ReplayClock {
  at = 0;
  playing = false;
  private times = 1;
  private next = 0;
  private timer: ReturnType<typeof setInterval> | undefined;
  private before = 0;
  private readonly frames: Frame[];
  private whole: boolean;

  constructor(
    private readonly page: ReplayPage,
    /** Called for every moment that comes up, and with null for each jump. */
    private readonly came: (frame: Frame | null) => void,
    private readonly ticked: () => void,
  ) {
    this.frames = [...page.frames];
    this.whole = page.next === null;
  }

  /** Take the next stretch of a long attempt. */
  take(page: ReplayPage): void {
    this.frames.push(...page.frames);
    this.whole = page.next === null;
    this.ticked();
  }

  /** Up to where it can be played so far. */
  get fetchedTo(): number {
    return this.whole ? this.page.duration_s : (this.frames.at(-1)?.at_s ?? 0);
  }

  get speed(): number {
    return this.times;
  }

  /** From now on this many times as fast. */
  goAt(times: number): void {
    this.times = times;
    this.ticked();
  }

  play(): void {
    if (this.at >= this.page.duration_s) this.jump(0);
    this.playing = true;
    this.before = performance.now();
    clearInterval(this.timer);
    this.timer = setInterval(() => this.tick(), 30);
    this.ticked();
  }

  pause(): void {
    this.playing = false;
    clearInterval(this.timer);
    player.hush();
    this.ticked();
  }

  /** Go to a moment; what rang then is not rebuilt, so listening begins with the next stroke. */
  jump(to: number): void {
    player.hush();
    this.at = Math.max(0, Math.min(this.fetchedTo, to));
    const next = this.frames.findIndex((frame) => frame.at_s >= this.at);
    this.next = next < 0 ? this.frames.length : next;
    this.came(null);
    this.ticked();
  }

  /** Go to where a moment can be heard: to the stroke before it. */
  hear(moment: number): void {
    const strokes = this.frames.filter(
      (frame) => frame.action.kind === "play" && frame.at_s <= moment,
    );
    this.jump((strokes.at(-1)?.at_s ?? moment) - 0.4);
    this.play();
  }

  dispose(): void {
    clearInterval(this.timer);
    player.hush();
  }

  private tick(): void {
    const now = performance.now();
    const passed = Math.min(LONGEST_STEP_S, (now - this.before) / 1000);
    this.before = now;
    this.at = Math.min(this.fetchedTo, this.at + passed * this.times);
    for (;;) {
      const frame = this.frames[this.next];
      if (!frame || frame.at_s > this.at) break;
      this.next++;
      player.play(frame.sounds, null);
      this.came(frame);
    }
    if (this.at >= this.page.duration_s) this.pause();
    else this.ticked();
  }
}
