// A made-up WebSocket and the places a page keeps things in, for tests without a browser.

import { vi } from "vitest";

export class Socket {
  static readonly OPEN = 1;
  static made: Socket[] = [];
  readyState = 1;
  sent: { kind: string; number?: number }[] = [];
  onopen = () => {};
  onmessage = (_: { data: string }) => {};
  onclose = () => {};
  constructor(readonly url: string) {
    Socket.made.push(this);
  }
  send(text: string) {
    this.sent.push(JSON.parse(text));
  }
  close() {
    this.readyState = 3;
  }
  tell(message: object) {
    this.onmessage({ data: JSON.stringify(message) });
  }
}

/** From now on the clock is turned by hand, and every line is one of these. */
export function beginWithoutBrowser(): void {
  const kept = new Map<string, string>();
  vi.useFakeTimers();
  Socket.made = [];
  vi.stubGlobal("WebSocket", Socket);
  vi.stubGlobal("location", { protocol: "http:", host: "here" });
  vi.stubGlobal("localStorage", {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
    removeItem: (key: string) => void kept.delete(key),
  });
}

export function endWithoutBrowser(): void {
  vi.useRealTimers();
  vi.unstubAllGlobals();
}
