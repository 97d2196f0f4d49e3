// Tapping along: how many a second, from when the taps came.

import { useState } from "react";

const FEWEST = 3;
const FORGETS_MS = 2500; // after a longer rest the count starts again

/** The rate of the last taps, by a straight line through their times; null while there are too few. */
export function rateOf(times: readonly number[]): number | null {
  if (times.length < FEWEST) return null;
  const middle = (times.length - 1) / 2;
  const mean = times.reduce((sum, at) => sum + at, 0) / times.length;
  let along = 0;
  let square = 0;
  times.forEach((at, n) => {
    along += (n - middle) * (at - mean);
    square += (n - middle) ** 2;
  });
  return 1000 / (along / square);
}

export function tapped(times: readonly number[], at: number): number[] {
  const last = times.at(-1);
  return last !== undefined && at - last < FORGETS_MS ? [...times, at] : [at];
}

/** The rate that is tapped, and what a tap does. */
export function useTaps(): [rate: number | null, tap: () => void] {
  const [times, setTimes] = useState<readonly number[]>([]);
  return [rateOf(times), () => setTimes(tapped(times, performance.now()))];
}
