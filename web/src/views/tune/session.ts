// One tab at the bench: what is done over its line, the scene as last told, and what sounds.

import type { BenchAction, Scene, Schemas } from "../../api/client";
import { Line, type LineState } from "../../realtime/line";
import { player } from "../../sound/player";
import type { Watch } from "../../sound/mixer";

export type { Link } from "../../realtime/line";

export type SessionState = LineState & {
  scene: Scene | null;
  /** What the tuner showed last, while its aid is on; null while it hears no one pitch. */
  shown: { name: string; cents: number; should_cents: number | null } | null;
  /** All strings as the tuner showed them at the end, once asked for. */
  checked: Schemas["Checked"]["strings"] | null;
};

export class Session {
  private readonly line: Line<BenchAction, Schemas["BenchToBrowser"]>;
  private readonly listeners = new Set<() => void>();
  private state: SessionState = {
    link: "joining",
    scene: null,
    unsaved: 0,
    notice: null,
    shown: null,
    checked: null,
  };
  private pressed = new Map<number, number>();

  constructor(attempt: string) {
    this.line = new Line(
      `/api/attempts/${attempt}/bench`,
      `meldrin:unsaved:${attempt}`,
      (message) => this.hear(message as Schemas["BenchToBrowser"]),
      (line) => this.change(line),
    );
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): SessionState => this.state;

  open(): void {
    this.line.open();
  }

  /** Do something at the bench; false while there is no line to do it over. */
  act(action: BenchAction, pressedAt: number | null = null): boolean {
    const number = this.line.act(action);
    if (number !== null && pressedAt !== null) this.pressed.set(number, pressedAt);
    return number !== null;
  }

  /** How long the attempt has lasted, in seconds. */
  get time_s(): number {
    return this.line.time_s;
  }

  /** Ask the tuner what it reads now. */
  listen(flats: boolean): void {
    this.line.ask({ kind: "listen", flats });
  }

  /** Take the attempt back from another tab. */
  takeBack(): void {
    this.line.takeBack();
  }

  close(): void {
    this.line.close();
    player.watch(null);
  }

  private hear(message: Schemas["BenchToBrowser"]): void {
    switch (message.kind) {
      case "welcome":
        player.watch(null);
        this.change({ scene: message.scene });
        break;
      case "now":
        this.sceneTold(message);
        break;
      case "shown":
        this.change({
          shown:
            message.name === null || message.cents === null
              ? null
              : { name: message.name, cents: message.cents, should_cents: message.should_cents },
        });
        break;
      case "checked":
        this.change({ checked: message.strings });
        break;
    }
  }

  private sceneTold(message: Schemas["Now"]): void {
    const pressedAt = this.pressed.get(message.number) ?? null;
    this.pressed.delete(message.number);
    // What was sent again after a break may have been heard already.
    if (!this.line.wasAnswered(message.number)) player.play(message.sounds, pressedAt);
    if (this.state.scene === null) return; // it is told whole first
    const scene = changed(this.state.scene, message.changes);
    player.watch(watched(scene));
    this.change({ scene, shown: scene.aid === "tuner" ? this.state.shown : null });
  }

  private change(changed: Partial<SessionState>): void {
    this.state = { ...this.state, ...changed };
    for (const listener of this.listeners) listener();
  }
}

/** The scene with what an action has changed in it; of the strings only those are told that have. */
function changed(scene: Scene, changes: Schemas["SceneChanges"]): Scene {
  const others = new Map(changes.strings?.map((string) => [string.number, string]));
  const strings = scene.strings.map((string) => others.get(string.number) ?? string);
  return { ...scene, ...changes, strings };
}

/** What the picture is drawn from: the pair that beats, or one string alone where only its height is
 * looked at; nothing by ear and by tuner. */
function watched({ aid, pair, offset_voice }: Scene): Watch | null {
  if (aid === "ear" || aid === "tuner") return null;
  if (pair) {
    return {
      own: [pair.own_voice, pair.own_partial - 1],
      other: [pair.other_voice, pair.other_partial - 1],
    };
  }
  return offset_voice === null ? null : { own: [offset_voice, 0], other: null };
}
