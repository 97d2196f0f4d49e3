// One tab at a sitting: what is done over its line, how it stands, and what is heard: samples where
// a trial is only judged, tables over the worklet where a string is turned.

import type { DrillAction, DrillScene, Schemas } from "../../api/client";
import { Line, type LineState } from "../../realtime/line";
import { NO_SOUND, player } from "../../sound/player";
import { fromBase64, Samples } from "../../sound/samples";

export type SittingState = LineState & {
  scene: DrillScene | null;
  /** When what is heard began to play, by the page's clock, and how far into it; null while nothing
   * does. */
  playing: { beganMs: number; begun_s: number; example: number | null } | null;
  /** What is the matter with the sound; null while it plays. */
  mute: string | null;
};

export const NO_DEVICE_HERE = "This machine gives the page no sound. Check its speaker.";
const NOT_SECURE =
  "A string can be turned only on a secure page: by https, or on the machine itself. The other drills play here too.";

// What does not stop what sounds.
const SOUNDING: readonly DrillAction["kind"][] = [
  "hear_trial",
  "hear_example",
  "play_string",
  "turn_trial",
];

export class SittingSession {
  private readonly line: Line<DrillAction, Schemas["DrillsToBrowser"]>;
  private readonly listeners = new Set<() => void>();
  private readonly samples = new Samples();
  private readonly sent = new Map<number, DrillAction["kind"]>();
  private ends: ReturnType<typeof setTimeout> | undefined;
  private state: SittingState = {
    link: "joining",
    unsaved: 0,
    notice: null,
    scene: null,
    playing: null,
    mute: null,
  };

  constructor(sitting: string) {
    this.line = new Line(
      `/api/drills/${sitting}/line`,
      `meldrin:unsaved:${sitting}`,
      (message) => this.hear(message as Schemas["DrillsToBrowser"]),
      (line) => this.change(line),
    );
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): SittingState => this.state;

  open(): void {
    this.line.open();
  }

  /** Do something; what it makes sound comes from the server. */
  act(action: DrillAction): void {
    const turns = this.state.scene?.stage === "asked" && this.state.scene.asked?.turn;
    if (turns) this.startPlayer();
    else if (action.kind === "hear_trial" || action.kind === "hear_example") this.samples.start();
    if (!SOUNDING.includes(action.kind)) this.hush();
    const number = this.line.act(action);
    if (number !== null) this.sent.set(number, action.kind);
  }

  takeBack(): void {
    this.line.takeBack();
  }

  close(): void {
    this.line.close();
    this.hush();
    this.samples.close();
    player.hush();
  }

  private hear(message: Schemas["DrillsToBrowser"]): void {
    switch (message.kind) {
      case "welcome":
        this.change({ scene: message.scene });
        break;
      case "now":
        this.now(message);
        break;
      case "sound":
        this.sound(message);
        break;
    }
  }

  private now(message: Schemas["DrillNow"]): void {
    const kind = this.sent.get(message.number);
    this.sent.delete(message.number);
    this.change({ scene: message.scene });
    if (message.sounds.length === 0 || this.line.wasAnswered(message.number)) return;
    player.play(message.sounds, null);
    const { asked } = message.scene;
    if (!asked?.turn || (kind !== "hear_trial" && kind !== "play_string")) return;
    // the string alone begins where it stands in the picture
    const begun_s = kind === "hear_trial" ? 0 : asked.turn.begins_s;
    this.plays(begun_s, asked.parts.at(-1)?.end_s ?? 0, null);
  }

  private plays(begun_s: number, until_s: number, example: number | null): void {
    clearTimeout(this.ends);
    this.change({ playing: { beganMs: performance.now(), begun_s, example } });
    this.ends = setTimeout(() => this.change({ playing: null }), (until_s - begun_s) * 1000);
  }

  private startPlayer(): void {
    player.start().then(
      () => this.change({ mute: player.isMute ? NO_DEVICE_HERE : null }),
      () => this.change({ mute: window.isSecureContext ? NO_SOUND : NOT_SECURE }),
    );
  }

  private sound(message: Schemas["DrillSound"]): void {
    const { scene } = this.state;
    // what comes late, when the learner has gone on, is not played any more
    if (message.trial !== 0 && message.trial !== scene?.number) return;
    const samples = fromBase64(message.samples);
    this.plays(0, samples.length / message.rate, message.example);
    void this.samples
      .play(samples, message.rate)
      .then((heard) => this.change({ mute: heard === "mute" ? NO_DEVICE_HERE : null }));
  }

  private hush(): void {
    clearTimeout(this.ends);
    this.samples.stop();
    if (this.state.playing) this.change({ playing: null });
  }

  private change(changed: Partial<SittingState>): void {
    this.state = { ...this.state, ...changed };
    for (const listener of this.listeners) listener();
  }
}
