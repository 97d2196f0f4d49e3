import { describe, expect, it } from "vitest";
import { rateOf, tapped } from "../../web/src/views/listen/use-taps";

describe("tapping along", () => {
  it("tells the rate of even taps, and of uneven ones the line through them", () => {
    expect(rateOf([0, 500, 1000, 1500])).toBeCloseTo(2, 9);
    expect(rateOf([0, 400])).toBeNull();
    // times 0, 1.1, 1.9, 3: the slope is ((-1.5)(-1.5) + (-.5)(-.4) + .5(.4) + 1.5(1.5)) / 5
    expect(rateOf([0, 1100, 1900, 3000])).toBeCloseTo(1 / ((2.25 + 0.2 + 0.2 + 2.25) / 5), 9);
  });

  it("starts again after a rest", () => {
    expect(tapped([0, 500], 1000)).toEqual([0, 500, 1000]);
    expect(tapped([0, 500], 4000)).toEqual([4000]);
  });
});
