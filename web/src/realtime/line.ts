// The line between this tab and an attempt, whatever is practised: it says hello, numbers what is
// done, keeps it until it is on disk, and comes back by itself when it breaks.

import type { Schemas } from "../api/client";
import { Clock } from "./clock";
import { type Kept, Outbox } from "./outbox";

/** joining: not yet told how things stand; live; away: the line is down; moved: in another tab. */
export type Link = "joining" | "live" | "away" | "moved" | "gone";

export type LineState = { link: Link; unsaved: number; notice: string | null };

type Welcome = { kind: "welcome"; number: number; at_s: number };
type Now = { kind: "now"; number: number };
type Common =
  Welcome | Now | Schemas["Saved"] | Schemas["Refused"] | Schemas["Trouble"] | Schemas["Moved"];

const FIRST_RETRY_MS = 300;
const LAST_RETRY_MS = 4000;
// Where too many are here, or too many tabs of one learner, trying again at once would make it worse.
const TURNED_AWAY = ["busy", "too_many"];
const TURNED_AWAY_RETRY_MS = 8000;

export class Line<Action, Message extends { kind: string }> {
  private socket: WebSocket | null = null;
  private readonly outbox: Outbox<Action>;
  private readonly clock = new Clock();
  private readonly tab = tabName();
  private number = 0;
  private answered = 0;
  private retryMs = FIRST_RETRY_MS;
  private retry: ReturnType<typeof setTimeout> | undefined;
  private state: LineState = { link: "joining", unsaved: 0, notice: null };

  constructor(
    private readonly path: string,
    storedUnder: string,
    /** Called with every message, after the line has taken from it what concerns the line. */
    private readonly hear: (message: Message | Common) => void,
    private readonly changed: (state: LineState) => void,
  ) {
    this.outbox = new Outbox(storedUnder);
  }

  /** How long the attempt has lasted, in seconds. */
  get time_s(): number {
    return this.clock.now();
  }

  open(): void {
    const scheme = location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${location.host}${this.path}`);
    this.socket = socket;
    socket.onopen = () => socket.send(JSON.stringify({ kind: "hello", tab: this.tab }));
    socket.onmessage = ({ data }: MessageEvent<string>) => this.take(JSON.parse(data));
    socket.onclose = () => {
      if (this.socket === socket) this.lost();
    };
  }

  /** Do something; its number, or null while there is no line to do it over. */
  act(action: Action): number | null {
    if (this.state.link !== "live") return null;
    this.number += 1;
    const entry = { number: this.number, at_s: this.clock.now(), action };
    this.clock.set(entry.at_s);
    this.outbox.add(entry);
    this.send(entry);
    this.change({ unsaved: this.outbox.all.length, notice: null });
    return entry.number;
  }

  /** Ask something that is not kept; `at_s` goes with it. */
  ask(question: object): void {
    if (this.state.link !== "live" || this.socket?.readyState !== WebSocket.OPEN) return;
    this.socket.send(JSON.stringify({ ...question, at_s: this.clock.now() }));
  }

  /** Whether this was answered before: what is sent again after a break is answered again. */
  wasAnswered(number: number): boolean {
    return number <= this.answered;
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
  }

  private take(message: Message | Common): void {
    const common = message as Common;
    switch (common.kind) {
      case "welcome":
        this.welcome(common);
        break;
      case "saved":
        this.outbox.saved(common.number);
        this.change({ unsaved: this.outbox.all.length, notice: null });
        break;
      case "trouble":
        this.change({ notice: common.message });
        break;
      case "refused":
        this.refused(common);
        break;
      case "moved":
        this.change({ link: "moved", notice: common.message });
        break;
    }
    this.hear(message);
    if (common.kind === "now") this.answered = Math.max(this.answered, common.number);
    if (common.kind === "welcome") for (const entry of this.outbox.all) this.send(entry);
  }

  private welcome(message: Welcome): void {
    this.retryMs = FIRST_RETRY_MS;
    this.outbox.saved(message.number);
    const last = this.outbox.last;
    this.number = Math.max(message.number, last?.number ?? 0);
    this.clock.set(Math.max(message.at_s, last?.at_s ?? 0));
    this.change({ link: "live", unsaved: this.outbox.all.length, notice: null });
  }

  private refused(message: Schemas["Refused"]): void {
    if (message.number !== null) this.outbox.drop(message.number);
    if (message.code === "no_such_attempt") this.change({ link: "gone", notice: message.message });
    else if (message.code === "store_away") this.lost(message.message);
    else if (message.number === null && TURNED_AWAY.includes(message.code)) {
      this.retryMs = TURNED_AWAY_RETRY_MS;
      this.lost(message.message);
    } else this.change({ notice: message.message, unsaved: this.outbox.all.length });
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

  private send(entry: Kept<Action>): void {
    if (this.socket?.readyState === WebSocket.OPEN) {
      this.socket.send(JSON.stringify({ kind: "act", ...entry }));
    }
  }

  private change(some: Partial<LineState>): void {
    this.state = { ...this.state, ...some };
    this.changed(this.state);
  }
}

/** A name for this tab. Pages over plain http from another machine have no `randomUUID`. */
function tabName(): string {
  const numbers = crypto.getRandomValues(new Uint32Array(4));
  return [...numbers].map((one) => one.toString(16).padStart(8, "0")).join("-");
}
