import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { QUIET_DB, WaterLog, WINDOW_MS } from "../../web/src/picture/water-log";
import type { Beat } from "../../web/src/sound/player";

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["performance"] });
  vi.advanceTimersByTime(1000);
});
afterEach(() => {
  vi.useRealTimers();
});

function beat(at: number, phase = 0, own = 0.2, other = 0.1): Beat {
  return { kind: "beat", at, phase, hz: 2, own, other, depth: 0.5 };
}

describe("what the water is drawn from", () => {
  it("rises and falls with the phase, as high as the beat is deep", () => {
    const log = new WaterLog();
    for (const phase of [0, Math.PI / 2, Math.PI]) log.hear(beat(0, phase));
    const [top, middle, bottom] = log.samples.map(({ ripple }) => ripple ?? Number.NaN);
    expect(top).toBeCloseTo(0.5, 9);
    expect(middle).toBeCloseTo(0, 9);
    expect(bottom).toBeCloseTo(-0.5, 9);
  });

  it("is as loud as the quieter of the two", () => {
    const log = new WaterLog();
    log.hear(beat(0));
    expect(log.samples[0]?.loudDb).toBeCloseTo(-20, 9); // 0.1 of full scale
  });

  it("spaces by the speaker's clock what comes in one bunch", () => {
    const log = new WaterLog();
    log.hear(beat(0));
    vi.advanceTimersByTime(100);
    for (const at of [0.02, 0.04, 0.06]) log.hear(beat(at));
    const at = log.samples.map((one) => one.at);
    // evenly, but for the half millisecond by which the two clocks may grow apart
    for (const n of [1, 2, 3]) expect((at[n] ?? 0) - (at[n - 1] ?? 0)).toBeCloseTo(20.5, 9);
  });

  it("hears a pair for a moment after its last word, and not when it has been told silent", () => {
    const log = new WaterLog();
    expect(log.audible()).toBe(false);
    log.hear(beat(0));
    expect(log.audible()).toBe(true);
    vi.advanceTimersByTime(400);
    expect(log.audible()).toBe(false);
    log.hear(beat(0.4));
    log.hear({ kind: "silent" });
    expect(log.audible()).toBe(false);
    expect(log.samples.at(-1)).toMatchObject({ ripple: null, loudDb: QUIET_DB });
  });

  it("shows no offset that it may not show, and glides to one that it may", () => {
    const log = new WaterLog();
    log.hear(beat(0));
    expect(log.samples.at(-1)?.cents).toBeNull();
    log.show(10);
    log.hear(beat(0.02));
    expect(log.samples.at(-1)?.cents).toBe(10); // from nothing: at once
    log.show(0);
    log.hear(beat(0.04));
    const first = log.samples.at(-1)?.cents ?? 0;
    expect(first).toBeGreaterThan(0);
    expect(first).toBeLessThan(10);
    log.show(null);
    log.hear(beat(0.06));
    expect(log.samples.at(-1)?.cents).toBeNull();
  });

  it("takes nothing that was on its way when it began again", () => {
    const log = new WaterLog();
    log.hear(beat(0));
    log.mark("turned");
    log.clear();
    log.hear(beat(0.05));
    expect(log.samples).toEqual([]);
    expect(log.marks).toEqual([]);
    vi.advanceTimersByTime(150);
    log.hear(beat(0.2));
    expect(log.samples.length).toBe(1);
  });

  it("marks the same thing once in a while, and forgets what has left the window", () => {
    const log = new WaterLog();
    for (const words of ["turned", "turned", "let go"]) log.mark(words);
    expect(log.marks.map(({ words }) => words)).toEqual(["turned", "let go"]);
    vi.advanceTimersByTime(WINDOW_MS + 1);
    log.mark("turned");
    expect(log.marks.map(({ words }) => words)).toEqual(["turned"]);
    expect(log.idle()).toBe(false);
    vi.advanceTimersByTime(WINDOW_MS + 501);
    expect(log.idle()).toBe(true);
  });

  it("keeps no more than it can draw", () => {
    const log = new WaterLog();
    for (let n = 0; n < 2000; n++) log.hear(beat(n / 100));
    expect(log.samples.length).toBe(1400);
  });

  it("lies still under the tuner, and is empty where it reads nothing", () => {
    const log = new WaterLog();
    log.read(-12);
    expect(log.samples.at(-1)).toMatchObject({ ripple: 0, cents: -12 });
    expect(log.audible()).toBe(true);
    log.read(null);
    expect(log.samples.at(-1)).toMatchObject({ ripple: null, cents: null });
  });
});
