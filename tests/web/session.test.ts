import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Scene } from "../../web/src/api/client";
import { Session, type SessionState } from "../../web/src/views/tune/session";
import { beginWithoutBrowser, endWithoutBrowser, Socket } from "./socket";

const player = vi.hoisted(() => ({ play: vi.fn(), watch: vi.fn() }));
vi.mock("../../web/src/sound/player", () => ({ player }));

beforeEach(() => {
  vi.clearAllMocks();
  beginWithoutBrowser();
});
afterEach(endWithoutBrowser);

const PAIR = { own_voice: 3, own_partial: 4, other_voice: 5, other_partial: 3 };
const SCENE = {
  stage: 0,
  aid: "ripple",
  pair: null,
  offset_voice: null,
  strings: [
    { number: 1, turns: 0, fret: 0 },
    { number: 2, turns: 0, fret: 5 },
  ],
} as unknown as Scene;

function seated(scene: object = SCENE) {
  const session = new Session("a");
  session.open();
  const socket = Socket.made[0] as Socket;
  socket.onopen();
  socket.tell({ kind: "welcome", number: 0, at_s: 0, scene });
  return { session, socket, now: () => session.snapshot() as SessionState };
}

const PLAY = { kind: "play", strings: [1], reference: false } as never;

describe("a tab at the bench", () => {
  it("keeps the scene as told, and of each answer only what has changed", () => {
    const { session, socket, now } = seated();
    expect(now().scene).toEqual(SCENE);
    session.act(PLAY, 12);
    socket.tell({
      kind: "now",
      number: 1,
      changes: { stage: 1, strings: [{ number: 2, turns: 3, fret: 0 }] },
      sounds: ["a stroke"],
    });
    expect(now().scene).toMatchObject({ stage: 1, aid: "ripple" });
    expect(now().scene?.strings).toEqual([
      { number: 1, turns: 0, fret: 0 },
      { number: 2, turns: 3, fret: 0 },
    ]);
    expect(player.play).toHaveBeenCalledWith(["a stroke"], 12); // with when it was pressed
  });

  it("plays nothing twice that was answered before the line went down", () => {
    const { session, socket } = seated();
    session.act(PLAY);
    const answer = { kind: "now", number: 1, changes: {}, sounds: ["a stroke"] };
    socket.tell(answer);
    socket.onclose();
    vi.advanceTimersByTime(500);
    const again = Socket.made[1] as Socket;
    again.onopen();
    again.tell({ kind: "welcome", number: 0, at_s: 0, scene: SCENE });
    again.tell(answer); // sent again, for it was not on disk
    expect(player.play).toHaveBeenCalledTimes(1);
  });

  it("tells the picture which partials meet, from 0, and nothing by ear or by tuner", () => {
    const watched = (changes: object) => {
      const { session, socket } = seated();
      session.act(PLAY);
      socket.tell({ kind: "now", number: 1, changes, sounds: [] });
      return player.watch.mock.lastCall?.[0] as unknown;
    };
    expect(watched({ pair: PAIR })).toEqual({ own: [3, 3], other: [5, 2] });
    expect(watched({ offset_voice: 7 })).toEqual({ own: [7, 0], other: null });
    expect(watched({ pair: PAIR, aid: "ear" })).toBeNull();
    expect(watched({ pair: PAIR, aid: "tuner" })).toBeNull();
    expect(watched({})).toBeNull();
  });

  it("shows what the tuner reads only while it is on", () => {
    const { session, socket, now } = seated({ ...SCENE, aid: "tuner" });
    session.listen(false);
    expect(socket.sent.at(-1)).toMatchObject({ kind: "listen", flats: false });
    socket.tell({ kind: "shown", name: "E2", cents: -4.5 });
    expect(now().shown).toEqual({ name: "E2", cents: -4.5 });
    socket.tell({ kind: "shown", name: null, cents: null });
    expect(now().shown).toBeNull();
    socket.tell({ kind: "shown", name: "E2", cents: 1 });
    session.act({ kind: "set_aid", aid: "ear" } as never);
    socket.tell({ kind: "now", number: 1, changes: { aid: "ear" }, sounds: [] });
    expect(now().shown).toBeNull();
  });

  it("tells all who look at it, until they look away", () => {
    const { session, socket } = seated();
    const told = vi.fn();
    const leave = session.subscribe(told);
    socket.tell({ kind: "checked", strings: [] });
    expect(told).toHaveBeenCalledTimes(1);
    leave();
    socket.tell({ kind: "checked", strings: [] });
    expect(told).toHaveBeenCalledTimes(1);
  });

  it("does nothing while there is no line, and says so", () => {
    const { session, socket } = seated();
    socket.onclose();
    expect(session.act(PLAY)).toBe(false);
    expect(session.snapshot().link).toBe("away");
  });
});
