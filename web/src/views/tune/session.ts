// One tab at one attempt: the socket, what is not yet saved, and the scene as last told.

import type { BenchAction, Scene, Schemas } from "../../api/client";
import { player } from "../../sound/player";
import type { Watch } from "../../sound/voices.worklet";
import { Outbox } from "./outbox";

type FromServer = Schemas["ToBrowser"];

/** joining: not yet told how things stand; live; away: the line is down; moved: in another tab. */
export type Link = "joining" | "live" | "away" | "moved" | "gone";

export type SessionState = {
  link: Link;
  scene: Scene | null;
  unsaved: number;
  notice: string | null;
  /** What the tuner showed last, while its aid is on; null while it hears no one pitch. */
  shown: { name: string; cents: number } | null;
  /** All strings as the tuner showed them at the end, once asked for. */
  checked: Schemas["Checked"]["strings"] | null;
};

const FIRST_RETRY_MS = 300;
const LAST_RETRY_MS = 4000;
const LONGEST_PAUSE_S = 600; // a tab left open overnight does not stretch the attempt to a day

export class Session {
  private socket: WebSocket | null = null;
  private readonly outbox: Outbox;
  private readonly tab = crypto.randomUUID();
  private readonly listeners = new Set<() => void>();
  private state: SessionState = {
    link: "joining",
    scene: null,
    unsaved: 0,
    notice: null,
    shown: null,
    checked: null,
  };
  private number = 0;
  private resent = 0;
  private clock = { at_s: 0, since: performance.now() };
  private retryMs = FIRST_RETRY_MS;
  private retry: ReturnType<typeof setTimeout> | undefined;
  private pressed = new Map<number, number>();

  constructor(private readonly attempt: string) {
    this.outbox = new Outbox(`meldrin:unsaved:${attempt}`);
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  readonly snapshot = (): SessionState => this.state;

  open(): void {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}/api/attempts/${this.attempt}/bench`);
    this.socket = socket;
    socket.onopen = () => socket.send(JSON.stringify({ kind: "hello", tab: this.tab }));
    socket.onmessage = ({ data }: MessageEvent<string>) => this.hear(JSON.parse(data));
    socket.onclose = () => {
      if (this.socket === socket) this.lost();
    };
  }

  /** Do something at the bench; false while there is no line to do it over. */
  act(action: BenchAction, pressedAt: number | null = null): boolean {
    if (this.state.link !== "live") return false;
    this.number += 1;
    const entry = { number: this.number, at_s: this.now(), action };
    this.clock = { at_s: entry.at_s, since: performance.now() };
    this.outbox.add(entry);
    if (pressedAt !== null) this.pressed.set(entry.number, pressedAt);
    this.send(entry);
    this.change({ unsaved: this.outbox.all.length, notice: null });
    return true;
  }

  /** Ask the tuner what it reads now. */
  listen(flats: boolean): void {
    if (this.state.link !== "live" || this.socket?.readyState !== WebSocket.OPEN) return;
    this.socket.send(JSON.stringify({ kind: "listen", at_s: this.now(), flats }));
  }

  /** Take the attempt back from another tab. */
  takeBack(): void {
    this.change({ link: "joining", notice: null });
    this.socket?.close();
    this.open();
  }

  close(): void {
    clearTimeout(this.retry);
    const socket = this.socket;
    this.socket = null;
    socket?.close();
    player.watch(null);
  }

  private hear(message: FromServer): void {
    switch (message.kind) {
      case "welcome":
        this.welcome(message);
        break;
      case "now":
        this.sceneTold(message);
        break;
      case "saved":
        this.outbox.saved(message.number);
        this.change({ unsaved: this.outbox.all.length, notice: null });
        break;
      case "shown":
        this.change({
          shown:
            message.name === null || message.cents === null
              ? null
              : { name: message.name, cents: message.cents },
        });
        break;
      case "checked":
        this.change({ checked: message.strings });
        break;
      case "trouble":
        this.change({ notice: message.message });
        break;
      case "refused":
        this.refused(message);
        break;
      case "moved":
        this.change({ link: "moved", notice: message.message });
        break;
    }
  }

  private welcome(message: Schemas["Welcome"]): void {
    this.retryMs = FIRST_RETRY_MS;
    this.outbox.saved(message.number);
    this.number = Math.max(message.number, this.outbox.last?.number ?? 0);
    this.resent = this.outbox.last?.number ?? 0;
    const at_s = Math.max(message.at_s, this.outbox.last?.at_s ?? 0);
    this.clock = { at_s, since: performance.now() };
    player.watch(null);
    this.change({
      link: "live",
      scene: message.scene,
      unsaved: this.outbox.all.length,
      notice: null,
    });
    for (const entry of this.outbox.all) this.send(entry);
  }

  private sceneTold(message: Schemas["Now"]): void {
    const pressedAt = this.pressed.get(message.number) ?? null;
    this.pressed.delete(message.number);
    // What is sent again after a break has been heard once already.
    if (message.number > this.resent) player.play(message.sounds, pressedAt);
    player.watch(watched(message.scene));
    const shown = message.scene.aid === "tuner" ? this.state.shown : null;
    this.change({ scene: message.scene, shown });
  }

  private refused(message: Schemas["Refused"]): void {
    if (message.number !== null) this.outbox.drop(message.number);
    if (message.code === "no_such_attempt") this.change({ link: "gone", notice: message.message });
    else if (message.code === "store_away") this.lost(message.message);
    else this.change({ notice: message.message, unsaved: this.outbox.all.length });
  }

  private lost(notice: string | null = null): void {
    if (this.state.link === "moved" || this.state.link === "gone") return;
    const socket = this.socket;
    this.socket = null;
    socket?.close();
    this.change({ link: "away", notice });
    clearTimeout(this.retry);
    this.retry = setTimeout(() => this.open(), this.retryMs);
    this.retryMs = Math.min(this.retryMs * 1.6, LAST_RETRY_MS);
  }

  private send(entry: { number: number; at_s: number; action: BenchAction }): void {
    if (this.socket?.readyState === WebSocket.OPEN) {
      this.socket.send(JSON.stringify({ kind: "act", ...entry }));
    }
  }

  private now(): number {
    const passed = (performance.now() - this.clock.since) / 1000;
    return this.clock.at_s + Math.min(passed, LONGEST_PAUSE_S);
  }

  private change(changed: Partial<SessionState>): void {
    this.state = { ...this.state, ...changed };
    for (const listener of this.listeners) listener();
  }
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
