import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { Line, type LineState } from "../../web/src/realtime/line";
import { beginWithoutBrowser, endWithoutBrowser, Socket } from "./socket";

beforeEach(beginWithoutBrowser);
afterEach(endWithoutBrowser);

function joined() {
  const heard: { kind: string }[] = [];
  const states: LineState[] = [];
  const line = new Line<string, { kind: "now"; number: number }>(
    "/line",
    "unsaved",
    (message) => heard.push(message),
    (state) => states.push(state),
  );
  line.open();
  const socket = Socket.made[0] as Socket;
  socket.onopen();
  socket.tell({ kind: "welcome", number: 0, at_s: 0 });
  const now = () => states.at(-1) as LineState;
  return { line, socket, heard, now };
}

describe("the line", () => {
  it("says hello first and numbers what is done", () => {
    const { line, socket, now } = joined();
    expect(socket.sent[0]?.kind).toBe("hello");
    expect(line.act("a")).toBe(1);
    expect(line.act("b")).toBe(2);
    expect(socket.sent.slice(1).map((one) => one.number)).toEqual([1, 2]);
    expect(now().unsaved).toBe(2);
    socket.tell({ kind: "saved", number: 1 });
    expect(now().unsaved).toBe(1);
  });

  it("waits longer where too many are there, says so, and keeps what is not on disk", () => {
    const { line, socket, now } = joined();
    line.act("a");
    socket.tell({ kind: "refused", number: null, code: "busy", message: "Too many are here." });
    expect(now()).toEqual({ link: "away", unsaved: 1, notice: "Too many are here." });
    vi.advanceTimersByTime(7000);
    expect(Socket.made.length).toBe(1);
    vi.advanceTimersByTime(1500);
    const again = Socket.made[1] as Socket;
    again.onopen();
    again.tell({ kind: "welcome", number: 0, at_s: 0 });
    expect(again.sent.map((one) => one.number)).toEqual([undefined, 1]);
    expect(now().link).toBe("live");
  });

  it("comes back by itself and sends again what is not on disk", () => {
    const { line, socket, now } = joined();
    line.act("a");
    line.act("b");
    socket.onclose();
    expect(now().link).toBe("away");
    expect(line.act("c")).toBeNull();
    vi.advanceTimersByTime(400);
    const again = Socket.made[1] as Socket;
    again.onopen();
    again.tell({ kind: "welcome", number: 1, at_s: 3 });
    expect(again.sent.map((one) => one.number)).toEqual([undefined, 2]);
    expect(line.act("d")).toBe(3);
  });

  it("knows what was answered before the line went down", () => {
    const { line, socket } = joined();
    line.act("a");
    line.act("b");
    socket.tell({ kind: "now", number: 1 });
    socket.onclose();
    vi.advanceTimersByTime(400);
    const again = Socket.made[1] as Socket;
    again.onopen();
    again.tell({ kind: "welcome", number: 0, at_s: 0 });
    expect(line.wasAnswered(1)).toBe(true);
    expect(line.wasAnswered(2)).toBe(false);
  });

  it("waits longer each time the line does not come back", () => {
    joined();
    const waits: number[] = [];
    for (let n = 0; n < 8; n++) {
      const count = Socket.made.length;
      (Socket.made.at(-1) as Socket).onclose();
      let waited = 0;
      while (Socket.made.length === count) {
        vi.advanceTimersByTime(50);
        waited += 50;
      }
      waits.push(waited);
    }
    expect(waits).toEqual([...waits].sort((a, b) => a - b));
    expect(waits.at(-1)).toBeLessThanOrEqual(4050);
  });

  it("lets go of what was refused, and stops where the attempt is gone or elsewhere", () => {
    const { line, socket, now } = joined();
    line.act("a");
    socket.tell({ kind: "refused", number: 1, code: "slack", message: "The string is slack." });
    expect(now()).toMatchObject({ unsaved: 0, notice: "The string is slack.", link: "live" });
    socket.tell({ kind: "moved", message: "In another tab." });
    socket.onclose();
    vi.advanceTimersByTime(10_000);
    expect(now().link).toBe("moved");
    expect(Socket.made.length).toBe(1);
    line.takeBack();
    expect(Socket.made.length).toBe(2);
  });
});
