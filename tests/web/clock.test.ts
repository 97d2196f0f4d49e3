import { describe, expect, it } from "vitest";
import { Clock } from "../../web/src/realtime/clock";

function clockAt(start: number) {
  const time = { ms: start };
  return { time, clock: new Clock(() => time.ms) };
}

describe("the clock of an attempt", () => {
  it("counts seconds from where it is set", () => {
    const { time, clock } = clockAt(5_000);
    expect(clock.now()).toBe(0);
    time.ms += 2_500;
    expect(clock.now()).toBe(2.5);
    clock.set(40);
    expect(clock.now()).toBe(40);
    time.ms += 500;
    expect(clock.now()).toBe(40.5);
  });

  it("counts a pause of ten minutes at most", () => {
    const { time, clock } = clockAt(0);
    clock.set(10);
    time.ms = 8 * 3600 * 1000; // left open overnight
    expect(clock.now()).toBe(610);
  });

  it("never runs backwards while an attempt goes on", () => {
    const { time, clock } = clockAt(0);
    let before = 0;
    for (let n = 0; n < 50; n++) {
      time.ms += n * 37;
      const now = clock.now();
      expect(now).toBeGreaterThanOrEqual(before);
      clock.set(now);
      before = now;
    }
  });
});
