// The sound of the page: one audio context with the worklet in it, started only by a press.

import type { SoundEvent } from "./voice";
import { Clockwork } from "./clockwork";
import type { FromWorklet, ToWorklet, Watch } from "./mixer";
import workletUrl from "./voices.worklet?worker&url";

export type Beat =
  Extract<FromWorklet, { kind: "beat" }> | Extract<FromWorklet, { kind: "silent" }>;

const LEVEL_KEY = "meldrin:level";
const FIRST_LEVEL = 0.5; // 15 dB down: the loudest moment of a pair peaks near -26 dB of full scale
const FADE_S = 0.03;
const QUIETEST_DB = -30;
const WAITS_MS = 2500; // longer than a slow machine takes to begin

export class Player {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private gain: GainNode | null = null;
  private readying: Promise<void> | null = null;
  private listeners = new Set<(beat: Beat) => void>();
  private pressed = new Map<number, number>();
  private watched: Watch | null = null;
  private next = 1;
  private levelNow = storedLevel();
  private clockwork: Clockwork | null = null;
  private early: ToWorklet[] = [];
  private muteListeners = new Set<() => void>();
  private levelListeners = new Set<() => void>();

  /** Make sound possible; to be called from a press. Later calls only wake it up. */
  start(): Promise<void> {
    this.readying ??= this.ready().catch((error: unknown) => {
      this.readying = null;
      throw error;
    });
    if (this.context?.state === "suspended") void this.context.resume();
    return this.readying;
  }

  /** Play events now; `pressedAt` is the time stamp of the press they answer. */
  play(events: SoundEvent[], pressedAt: number | null): void {
    if (events.length === 0) return;
    if (!this.node) {
      // The answer to the first press may come before the sound is ready: it is played when it is.
      this.readying?.then(() => this.node && this.play(events, pressedAt)).catch(() => undefined);
      return;
    }
    const id = this.next++;
    if (pressedAt !== null) this.pressed.set(id, pressedAt);
    this.post({ kind: "play", id, events });
  }

  /** Let everything fade at once. */
  hush(): void {
    this.post({ kind: "hush" });
  }

  watch(watch: Watch | null): void {
    this.watched = watch;
    this.post({ kind: "watch", watch });
  }

  onBeat(listener: (beat: Beat) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  get level(): number {
    return this.levelNow;
  }

  /** From 0 (silent) to 1; heard evenly, so the steps are even in decibels. */
  set level(level: number) {
    this.levelNow = level;
    localStorage.setItem(LEVEL_KEY, String(level));
    if (this.gain && this.context) {
      this.gain.gain.setTargetAtTime(factor(level), this.context.currentTime, FADE_S);
    }
    for (const listener of this.levelListeners) listener();
  }

  dispose(): void {
    this.node?.disconnect();
    void this.context?.close();
    this.clockwork?.stop();
    this.clockwork = null;
    this.context = this.node = this.gain = this.readying = null;
  }

  private async ready(): Promise<void> {
    const context = new AudioContext({ latencyHint: "interactive" });
    this.context = context;
    void context.resume();
    // only to pages that are secure: by https, or from this machine
    if (!window.isSecureContext) throw new Error("This page is not served securely.");
    await context.audioWorklet.addModule(workletUrl);
    const node = new AudioWorkletNode(context, "meldrin-voices", { outputChannelCount: [1] });
    const gain = new GainNode(context, { gain: factor(this.levelNow) });
    node.connect(gain).connect(context.destination);
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => this.hear(data);
    this.node = node;
    this.gain = gain;
    this.watch(this.watched);
    this.minded(context);
  }

  /** Whether this machine gives no sound, so that the picture goes by the clock. */
  get isMute(): boolean {
    return this.clockwork !== null;
  }

  readonly onMute = (listener: () => void): (() => void) => {
    this.muteListeners.add(listener);
    return () => this.muteListeners.delete(listener);
  };

  readonly onLevel = (listener: () => void): (() => void) => {
    this.levelListeners.add(listener);
    return () => this.levelListeners.delete(listener);
  };

  private post(message: ToWorklet): void {
    if (this.clockwork) return this.clockwork.take(message);
    this.node?.port.postMessage(message);
    if (this.context?.state !== "running") this.early.push(message);
  }

  /** A browser whose machine has no sound leaves the context waiting, without a word. Then the
   * clock takes over with what was to sound, until there is sound after all. */
  private minded(context: AudioContext): void {
    const heed = () => {
      const isMute = context.state !== "running";
      if (!isMute) this.early = [];
      if (isMute === this.isMute) return;
      this.clockwork?.stop();
      this.clockwork = isMute ? new Clockwork((message) => this.hear(message)) : null;
      for (const message of isMute ? this.early : []) this.clockwork?.take(message);
      this.early = [];
      if (this.watched) this.post({ kind: "watch", watch: this.watched });
      for (const listener of this.muteListeners) listener();
    };
    context.addEventListener("statechange", () => {
      if (context.state === "running") heed();
    });
    setTimeout(() => {
      if (context.state !== "closed") heed();
    }, WAITS_MS);
  }

  private hear(message: FromWorklet): void {
    if (message.kind === "applied") this.measure(message);
    else for (const listener of this.listeners) listener(message);
  }

  /** Leave in the browser's performance record how long a press took to change the sound: up to
   * the worklet, by its own clock, to the millisecond. How long it takes from there is not asked:
   * in one browser asking the device while it starts can stop the page for good. */
  private measure({ id, wallMs }: { id: number; wallMs: number }): void {
    const start = this.pressed.get(id);
    this.pressed.delete(id);
    const end = wallMs - performance.timeOrigin;
    if (start === undefined || end < start) return;
    performance.measure("meldrin:press-to-sound", { start, end });
  }
}

/** How loud a level is, as a factor. */
export function factor(level: number): number {
  return level <= 0 ? 0 : 10 ** ((QUIETEST_DB * (1 - level)) / 20);
}

function storedLevel(): number {
  const stored = Number.parseFloat(localStorage.getItem(LEVEL_KEY) ?? "");
  return stored >= 0 && stored <= 1 ? stored : FIRST_LEVEL;
}

/** What is said where a browser has no sound to give. */
export const NO_SOUND =
  "This browser could not start its sound. Check its speaker, then reload the page.";

export const NO_DEVICE =
  "This machine gives the page no sound. Check its speaker. The picture goes on by the clock.";

export const player = new Player();
