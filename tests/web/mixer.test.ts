import { describe, expect, it } from "vitest";
import { FAINTEST } from "../../web/src/sound/constants";
import { type FromWorklet, Mixer } from "../../web/src/sound/mixer";
import type { Start } from "../../web/src/sound/voice";

const RATE = 48_000;

/** A voice of pure partials that hardly die away. */
function start(voice: number, hz: number, amplitudes: number[], decay_s = 1e6): Start {
  return {
    kind: "start",
    voice,
    table: {
      fundamental_hz: hz,
      amplitudes,
      decays_s: amplitudes.map(() => decay_s),
      attack_s: 0,
    },
  };
}

function mixing(...voices: Start[]) {
  const told: FromWorklet[] = [];
  const mixer = new Mixer(RATE, (message) => told.push(message));
  mixer.take({ kind: "play", id: 1, events: voices }, 0, 0);
  let frame = 0;
  /** Render some seconds in blocks of 128 frames, as the worklet does. */
  const run = (seconds: number) => {
    const all: number[] = [];
    const until = frame + Math.round((seconds * RATE) / 128) * 128;
    for (; frame < until; frame += 128) {
      const sum = new Float64Array(128);
      mixer.add(sum, frame, frame + 128);
      all.push(...sum);
    }
    return all;
  };
  const beat = () => {
    mixer.tellBeat(frame, frame / RATE);
    return told.at(-1);
  };
  return { mixer, told, run, beat };
}

describe("what sounds", () => {
  it("is a sine of the partial's frequency and size", () => {
    const heard = mixing(start(1, 480, [0.25])).run(0.05);
    heard.forEach((value, n) => {
      expect(value).toBeCloseTo(0.25 * Math.sin((2 * Math.PI * 480 * n) / RATE), 6);
    });
  });

  it("dies away by its decay: to 1/e after it", () => {
    const { run } = mixing(start(1, 480, [0.5], 0.1));
    const peak = (from: number, until: number) =>
      Math.max(...heard.slice(from * RATE, until * RATE).map(Math.abs));
    const heard = run(0.3);
    // over a swing of 2 ms the level falls by 2 %
    expect(peak(0.1, 0.1021) / peak(0, 0.0021)).toBeCloseTo(Math.exp(-1), 2);
  });

  it("lies where the stiffness of the string puts it", () => {
    const { run, mixer, beat } = mixing({
      ...start(1, 100, [0, 0, 0.2]),
      table: { ...start(1, 100, [0, 0, 0.2]).table, stiffness: 0.01 },
    });
    mixer.watch = { own: [1, 2], other: null };
    run(0.1);
    expect(beat()).toMatchObject({ kind: "beat", hz: 0, depth: 0 }); // one partial alone
    const heard = run(1);
    const rises = heard.filter((value, n) => n > 0 && value > 0 && (heard[n - 1] ?? 0) <= 0);
    // 3 x 100 x sqrt(1 + 0.01 x 9) = 313.2
    expect(rises.length).toBeGreaterThanOrEqual(312);
    expect(rises.length).toBeLessThanOrEqual(314);
  });

  it("begins later where it is to, and ends within its fade when it is let go", () => {
    const { run, mixer } = mixing({ ...start(1, 480, [0.25]), delay_s: 0.01 });
    const heard = run(0.1);
    expect(heard.slice(0, 480).every((value) => value === 0)).toBe(true);
    expect(Math.max(...heard.slice(480))).toBeCloseTo(0.25, 4);
    mixer.take(
      { kind: "play", id: 2, events: [{ kind: "release", voice: 1, fade_s: 0.005 }] },
      4864, // 0.1 s, in whole blocks
      4864 / RATE,
    );
    const after = run(0.1);
    // 12 fades later it is at -104 dB, and then gone
    expect(after.slice(0.07 * RATE).every((value) => value === 0)).toBe(true);
    const jumps = [...heard.slice(481), ...after].map((value, n, all) =>
      n ? Math.abs(value - (all[n - 1] ?? 0)) : 0,
    );
    // a sine of 480 Hz at 0.25 moves by 0.0157 a frame at most: nothing clicks
    expect(Math.max(...jumps)).toBeLessThan(0.0165);
  });

  it("glides to a new pitch without a click, and stays there", () => {
    const { run, mixer } = mixing(start(1, 480, [0.25]));
    const before = run(0.05);
    mixer.take(
      {
        kind: "play",
        id: 2,
        events: [{ kind: "retune", voice: 1, fundamental_hz: 960, stiffness: 0, glide_s: 0.04 }],
      },
      2432,
      0.05,
    );
    const after = run(0.55);
    const all = [...before.slice(-10), ...after];
    const jumps = all.slice(1).map((value, n) => Math.abs(value - (all[n] ?? 0)));
    expect(Math.max(...jumps)).toBeLessThan(1.05 * 0.25 * 2 * Math.PI * (960 / RATE));
    const settled = after.slice(0.05 * RATE, 0.55 * RATE);
    const rises = settled.filter((value, n) => n > 0 && value > 0 && (settled[n - 1] ?? 0) <= 0);
    expect(rises.length).toBeGreaterThanOrEqual(479); // 960 x 0.5
    expect(rises.length).toBeLessThanOrEqual(481);
  });

  it("is put away when it has died away, and not before", () => {
    const { mixer, run } = mixing(start(1, 480, [0.5], 0.01));
    mixer.watch = { own: [1, 0], other: null };
    const voices = () => (mixer as unknown as { voices: Map<number, unknown> }).voices.size;
    run(0.128);
    mixer.forget(0.128 * RATE);
    expect(voices()).toBe(1);
    mixer.forget(0.1401 * RATE); // 14 decays after it began
    expect(voices()).toBe(0);
  });
});

describe("the beat that is told", () => {
  it("is the distance of the two partials, and as deep as they are alike", () => {
    const { mixer, run, beat } = mixing(start(1, 220, [0, 0.2]), start(2, 441, [0.1]));
    mixer.watch = { own: [1, 1], other: [2, 0] };
    run(0.1);
    const told = beat();
    expect(told).toMatchObject({ kind: "beat", hz: 1 });
    // envelope from 0.2 - 0.1 to 0.2 + 0.1: a depth of (0.3 - 0.1)/(0.3 + 0.1)
    if (told?.kind === "beat") {
      expect(told.depth).toBeCloseTo(0.5, 3);
      expect([told.own, told.other].map((one) => one.toFixed(3))).toEqual(["0.200", "0.100"]);
    }
  });

  it("goes once around in a period", () => {
    const { mixer, run, beat } = mixing(start(1, 440, [0.2]), start(2, 444, [0.2]));
    mixer.watch = { own: [1, 0], other: [2, 0] };
    const phases = [0, 1, 2].map(() => {
      run(0.128);
      const told = beat();
      return told?.kind === "beat" ? told.phase : 0;
    });
    // 4 beats a second: 0.128 s are 0.512 of one
    const step = (n: number) => {
      const turned = ((phases[n] ?? 0) - (phases[n - 1] ?? 0)) / (2 * Math.PI);
      return (((-turned % 1) + 1) % 1).toFixed(3);
    };
    expect([step(1), step(2)]).toEqual(["0.512", "0.512"]);
  });

  it("is silence, said once, while one of them cannot be heard", () => {
    const { mixer, told, run, beat } = mixing(
      start(1, 440, [0.2]),
      start(2, 441, [0.9 * FAINTEST]),
    );
    mixer.watch = { own: [1, 0], other: [2, 0] };
    run(0.1);
    beat();
    beat();
    expect(told.filter((one) => one.kind === "silent").length).toBe(1);
    mixer.watch = { own: [1, 0], other: [3, 0] };
    beat();
    expect(told.some((one) => one.kind === "beat")).toBe(false);
  });

  it("is shallower where a third sound lies beside the two", () => {
    const { mixer, run, beat } = mixing(
      start(1, 440, [0.1]),
      start(2, 442, [0.1]),
      start(3, 441, [0.4]),
    );
    mixer.watch = { own: [1, 0], other: [2, 0] };
    run(0.1);
    const told = beat();
    // at least 0.4 - 0.2 is left, at most 0.6: (0.6 - 0.2)/(0.6 + 0.2)
    expect(told?.kind === "beat" && told.depth).toBeCloseTo(0.5, 3);
  });
});
