// One tab at a sitting: what is done over its line, how it stands, and what is heard.

import type { DrillAction, DrillScene, Schemas } from "../../api/client";
import { Line, type LineState } from "../../realtime/line";
import { fromBase64, Samples } from "../../sound/samples";

export type SittingState = LineState & {
  scene: DrillScene | null;
  /** When what is heard began to play, by the page's clock; null while nothing does. */
  playing: { sinceMs: number; example: number | null } | null;
  mute: boolean;
};

export class SittingSession {
  private readonly line: Line<DrillAction, Schemas["DrillsToBrowser"]>;
  private readonly listeners = new Set<() => void>();
  private readonly samples = new Samples();
  private ends: ReturnType<typeof setTimeout> | undefined;
  private state: SittingState = {
    link: "joining",
    unsaved: 0,
    notice: null,
    scene: null,
    playing: null,
    mute: false,
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
    if (action.kind === "hear_trial" || action.kind === "hear_example") this.samples.start();
    else this.hush();
    this.line.act(action);
  }

  takeBack(): void {
    this.line.takeBack();
  }

  close(): void {
    this.line.close();
    this.hush();
    this.samples.close();
  }

  private hear(message: Schemas["DrillsToBrowser"]): void {
    switch (message.kind) {
      case "welcome":
      case "now":
        this.change({ scene: message.scene });
        break;
      case "sound":
        this.sound(message);
        break;
    }
  }

  private sound(message: Schemas["DrillSound"]): void {
    const { scene } = this.state;
    // what comes late, when the learner has gone on, is not played any more
    if (message.trial !== 0 && message.trial !== scene?.number) return;
    const samples = fromBase64(message.samples);
    const sinceMs = performance.now();
    clearTimeout(this.ends);
    this.change({ playing: { sinceMs, example: message.example } });
    this.ends = setTimeout(
      () => this.change({ playing: null }),
      (samples.length / message.rate) * 1000,
    );
    void this.samples
      .play(samples, message.rate)
      .then((heard) => this.change({ mute: heard === "mute" }));
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
