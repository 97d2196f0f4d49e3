import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { ReplayPage } from "../../web/src/api/client";
import { type Frame, ReplayClock } from "../../web/src/views/review/replay-clock";

const player = vi.hoisted(() => ({ play: vi.fn(), hush: vi.fn() }));
vi.mock("../../web/src/sound/player", () => ({ player }));

beforeEach(() => {
  vi.useFakeTimers();
  vi.clearAllMocks();
});
afterEach(() => {
  vi.useRealTimers();
});

function frame(at_s: number, kind: string): Frame {
  return { at_s, action: { kind }, sounds: [`${kind} at ${at_s}`] } as unknown as Frame;
}

function replay(frames: Frame[], duration_s: number, next: number | null = null) {
  const came: (number | null)[] = [];
  const page = { frames, duration_s, next } as unknown as ReplayPage;
  const clock = new ReplayClock(
    page,
    (one) => came.push(one ? one.at_s : null),
    () => {},
  );
  return { clock, came };
}

const FRAMES = [frame(1, "play"), frame(2, "turn"), frame(3, "play"), frame(6, "turn")];

describe("a replay", () => {
  it("plays every moment once, when it comes up, and stops at the end", () => {
    const { clock, came } = replay(FRAMES, 7);
    clock.play();
    vi.advanceTimersByTime(2500);
    expect(came).toEqual([1, 2]);
    expect(player.play).toHaveBeenLastCalledWith(["turn at 2"], null);
    vi.advanceTimersByTime(5000);
    expect(came).toEqual([1, 2, 3, 6]);
    expect(clock.playing).toBe(false);
    expect(clock.at).toBe(7);
    clock.play(); // from the beginning again
    vi.advanceTimersByTime(1100);
    expect(came.slice(4)).toEqual([null, 1]);
  });

  it("goes as fast as it is told, from where it is", () => {
    const { clock } = replay(FRAMES, 7);
    clock.play();
    vi.advanceTimersByTime(1000);
    clock.goAt(4);
    vi.advanceTimersByTime(900);
    expect(clock.at).toBeCloseTo(1 + 4 * 0.9, 0);
    expect(clock.speed).toBe(4);
  });

  it("leaves nothing out while the page was asleep", () => {
    const { clock } = replay(FRAMES, 7);
    clock.play();
    vi.advanceTimersByTime(300);
    const before = clock.at;
    vi.setSystemTime(Date.now() + 60_000); // a tab in the background
    vi.advanceTimersByTime(31);
    expect(clock.at - before).toBeLessThanOrEqual(0.3);
  });

  it("jumps without a sound, and on from there", () => {
    const { clock, came } = replay(FRAMES, 7);
    clock.jump(2.5);
    expect(player.hush).toHaveBeenCalled();
    expect(player.play).not.toHaveBeenCalled();
    clock.play();
    vi.advanceTimersByTime(1000);
    expect(came).toEqual([null, 3]);
    clock.jump(-5);
    expect(clock.at).toBe(0);
    clock.jump(99);
    expect(clock.at).toBe(7);
  });

  it("makes a moment heard by the stroke before it", () => {
    const { clock, came } = replay(FRAMES, 7);
    clock.hear(6);
    expect(clock.at).toBeCloseTo(3 - 0.4, 9);
    vi.advanceTimersByTime(600);
    expect(came).toEqual([null, 3]);
    clock.hear(0.9); // before any stroke
    expect(clock.at).toBeCloseTo(0.5, 9);
  });

  it("waits for what has not been fetched, and goes on when it comes", () => {
    const { clock, came } = replay(FRAMES.slice(0, 3), 7, 3);
    expect(clock.fetchedTo).toBe(3);
    clock.play();
    vi.advanceTimersByTime(5000);
    expect(clock.at).toBe(3);
    expect(clock.playing).toBe(true);
    clock.take({ frames: [FRAMES[3]], duration_s: 7, next: null } as unknown as ReplayPage);
    expect(clock.fetchedTo).toBe(7);
    vi.advanceTimersByTime(5000);
    expect(came).toEqual([1, 2, 3, 6]);
    expect(clock.playing).toBe(false);
  });

  it("is silent when it is left", () => {
    const { clock, came } = replay(FRAMES, 7);
    clock.play();
    clock.dispose();
    vi.advanceTimersByTime(5000);
    expect(came).toEqual([]);
    expect(player.hush).toHaveBeenCalled();
  });
});
