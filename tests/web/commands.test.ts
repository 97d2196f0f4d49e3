import { beforeEach, describe, expect, it, vi } from "vitest";
import type { AttemptPage, BenchAction, Scene } from "../../web/src/api/client";
import {
  type Bench,
  type Command,
  commandsOf,
  isAnswered,
  type Stage,
} from "../../web/src/views/tune/commands";
import { Hold, keyOf, keyWords } from "../../web/src/views/tune/keys";

vi.mock("../../web/src/words/names", () => ({
  AIDS: ["ear", "ripple", "level", "tuner"],
  nameOf: (_: string, id: string) => id,
}));
vi.mock("../../web/src/words/notes", () => ({ named: (letters: string) => letters }));

const STAGE = {
  kind: "step",
  strings: [1, 2],
  with_reference: false,
  by_tuner: false,
  own: { string: 1, fret: 0, node_fret: null },
  other: { string: 2, fret: 5, node_fret: null },
} as unknown as Stage;

type Made = {
  behaviours?: string[];
  frets?: number;
  faults?: string[];
  chords?: { name: string; strings: number[]; drone: boolean }[];
  aids?: string[];
  bowed?: boolean;
  friction?: boolean;
  fine_turns?: number[] | null;
};

function page(made: Made = {}): AttemptPage {
  const labels = ["high E", "B", "low G"];
  return {
    exercise: { behaviours: made.behaviours ?? [], aids: made.aids ?? [], naming: "letters" },
    strings: labels.map((label, at) => ({
      number: at + 1,
      label,
      turns: [0.5, 5, 20],
      fine_turns: made.fine_turns ?? null,
      peg: { friction: made.friction ?? false, words: "peg" },
    })),
    stages: [STAGE, STAGE],
    chords: made.chords ?? [],
    faults: made.faults ?? [],
    frets: made.frets ?? 19,
    bowed: made.bowed ?? false,
    reference: { words: "the fork", sounds: true, in_question: false },
  } as unknown as AttemptPage;
}

function scene(strings: Partial<Scene["strings"][number]>[] = [], more: Partial<Scene> = {}) {
  const plain = { fret: 0, touched: false, hard: false, light: false, broken: false, off: false };
  return {
    stage: 0,
    aid: "ripple",
    muted: false,
    may_judge: true,
    may_decide: false,
    strings: [0, 1, 2].map((at) => ({ number: at + 1, ...plain, ...strings[at] })),
    ...more,
  } as unknown as Scene;
}

const PLAYING = {
  strength: 0.5, place: 0.2, way: "pluck", byProngs: false, size: 0, pushed: false, fine: false,
}; // prettier-ignore

const acted: BenchAction[] = [];
const said: unknown[] = [];
beforeEach(() => {
  acted.length = said.length = 0;
});

function bench(some: Partial<Bench> = {}): Bench {
  const tell = (what: string) => (value?: unknown) => void said.push([what, value]);
  return {
    page: page(),
    scene: scene(),
    stage: STAGE,
    selected: 1,
    verdict: null,
    playing: PLAYING as unknown as Bench["playing"],
    decide: tell("decide"),
    act: (action) => void acted.push(action),
    play: tell("play"),
    choose: tell("choose"),
    judge: tell("judge"),
    putOut: () => undefined,
    moreCents: tell("cents"),
    help: tell("help"),
    next: tell("next"),
    strikes: {},
    chord: null,
    layChord: tell("chord"),
    answer: { fault: null, string: 0, remedy: null },
    changeAnswer: tell("answer"),
    toggleStand: tell("stand"),
    open: tell("open"),
    ...some,
  };
}

function command(of: Bench, id: string): Command {
  const found = commandsOf(of).find((one) => one.id === id);
  if (!found) throw new Error(`no ${id}`);
  return found;
}

describe("what can be done at the bench", () => {
  it("has a key of its own for each, whatever the exercise", () => {
    const everything = [
      "pegs", "breaking", "fretting", "creep", "room", "nut", "sticking",
    ]; // prettier-ignore
    for (const faults of [[], ["finger", "slip"]]) {
      for (const stage of [STAGE, null]) {
        const made = page({
          behaviours: everything,
          faults,
          friction: true,
          fine_turns: [1, 5, 20],
          chords: [{ name: "G", strings: [1, 2, 3], drone: false }],
        });
        const all = commandsOf(bench({ page: made, stage })).filter(({ fits }) => fits ?? true);
        const keys = all.map(({ key }) => key);
        expect(keys.filter((key, at) => keys.indexOf(key) !== at)).toEqual([]);
        const ids = all.map(({ id }) => id);
        expect(new Set(ids).size).toBe(ids.length);
      }
    }
  });

  it("plays both strings of a stage, or one alone", () => {
    command(bench(), "both").run(0, false);
    command(bench(), "alone").run(0, false);
    command(bench(), "reference").run(0, false);
    const heard = acted.map((one) => (one.kind === "play" ? [one.strings, one.reference] : []));
    expect(heard).toEqual([
      [[1, 2], false],
      [[1], false],
      [[], true],
    ]);
    expect(command(bench(), "both").words).toBe("Play both");
    const bowed = bench({
      page: page({ bowed: true }),
      playing: { ...PLAYING, way: "bow" } as unknown as Bench["playing"],
    });
    expect(command(bowed, "both").words).toBe("Bow both");
  });

  it("turns a peg by its own steps, a larger one with Shift, either way", () => {
    command(bench(), "tighten").run(0, false);
    command(bench(), "loosen").run(0, true);
    expect(acted).toEqual([
      { kind: "turn", string: 1, degrees: 0.5, pushed: false, fine: false },
      { kind: "turn", string: 1, degrees: -5, pushed: false, fine: false },
    ]);
  });

  it("lets a friction peg go when the key is let go, and no machine", () => {
    expect(command(bench(), "tighten").ended).toBeUndefined();
    const made = page({ behaviours: ["pegs"], friction: true });
    command(bench({ page: made }), "tighten").ended?.();
    expect(acted).toEqual([{ kind: "let_go", string: 1 }]);
    expect(command(bench({ page: made }), "push").allowed).toBe(true);
    expect(command(bench(), "push").fits).toBe(false);
  });

  it("moves the finger that the stage has, by frets, or by tenths where it only touches", () => {
    const pressed = bench({ scene: scene([{}, { fret: 5 }]) });
    command(pressed, "finger-up").run(0, false);
    expect(acted.at(-1)).toMatchObject({ kind: "stop", string: 2, fret: 6, touch: false });
    const touching = bench({ scene: scene([{}, { fret: 5, touched: true }]) });
    command(touching, "finger-down").run(0, false);
    expect(acted.at(-1)).toMatchObject({ kind: "stop", string: 2, fret: 4.9, touch: true });
    command(touching, "touch").run(0, false);
    expect(acted.at(-1)).toMatchObject({ kind: "stop", string: 2, fret: 5, touch: false });
    expect(command(bench(), "finger-down").allowed).toBe(false); // it is at the nut
  });

  it("judges after the first turn, and before it only says low or high", () => {
    const before = bench({ scene: scene([], { may_judge: false, may_decide: true }) });
    expect(command(before, "in-tune").allowed).toBe(false);
    command(before, "low").run(0, false);
    command(bench(), "low").run(0, false);
    command(bench(), "in-tune").run(0, false);
    expect(said).toEqual([
      ["decide", "low"],
      ["judge", "low"],
      ["judge", "in_tune"],
    ]);
    expect(command(bench({ stage: null }), "low").allowed).toBe(false);
  });

  it("offers only the help that an exercise allows", () => {
    const allowed = (aids: string[]) =>
      ["ear", "ripple", "level", "tuner"].filter(
        (aid) => command(bench({ page: page({ aids }) }), aid).allowed,
      );
    expect(allowed([])).toEqual(["ear", "ripple", "level", "tuner"]);
    expect(allowed(["ear", "ripple"])).toEqual(["ear", "ripple"]);
  });

  it("takes a fault as said when all of it is there", () => {
    const whole = { fault: "false", string: 2, remedy: "new" } as unknown as Bench["answer"];
    expect(isAnswered(whole)).toBe(true);
    expect(isAnswered({ ...whole, string: 0 })).toBe(false); // which string, is asked too
    expect(isAnswered({ ...whole, fault: "room" as never, string: 0 })).toBe(true);
    expect(isAnswered({ ...whole, remedy: null })).toBe(false);
    const asked = bench({ page: page({ faults: ["false"] }) });
    expect(command(asked, "next").allowed).toBe(false);
    expect(command({ ...asked, answer: whole }, "next").allowed).toBe(true);
    // a reference would give it away
    expect(command(asked, "reference").allowed).toBe(false);
  });

  it("goes round the pegs from either end", () => {
    command(bench({ selected: 1 }), "higher").run(0, false);
    command(bench({ selected: 3 }), "lower").run(0, false);
    command(bench({ selected: 2 }), "higher").run(0, false);
    // from the lowest string up: 3, 2, 1
    expect(said).toEqual([
      ["choose", 3],
      ["choose", 1],
      ["choose", 1],
    ]);
  });

  it("puts a new string on only where one has broken", () => {
    const made = page({ behaviours: ["breaking"] });
    const broken = bench({ page: made, scene: scene([{ broken: true }]) });
    expect(command(broken, "replace").allowed).toBe(true);
    expect(command(broken, "settle").allowed).toBe(false);
    expect(command(bench({ page: made }), "replace").allowed).toBe(false);
    expect(command(bench(), "replace").fits).toBe(false);
  });

  it("finishes at the last stage, and in free play", () => {
    expect(command(bench(), "next").words).toBe("Next");
    const last = bench({ scene: scene([], { stage: 1 }) });
    expect(command(last, "next").words).toBe("Finish and see");
    expect(command(bench({ stage: null }), "next").words).toBe("Finish and see");
  });

  it("goes through the chords in free play, and back to none", () => {
    const chords = [
      { name: "G", strings: [1, 2, 3], drone: false },
      { name: "D", strings: [1, 2], drone: false },
    ];
    const free = { page: page({ chords }), stage: null };
    const run = (chord: (typeof chords)[number] | null) =>
      command(bench({ ...free, chord: chord as Bench["chord"] }), "chord").run(0, false);
    run(null);
    run(chords[0] ?? null);
    run(chords[1] ?? null);
    expect(said).toEqual([
      ["chord", "G"],
      ["chord", "D"],
      ["chord", null],
    ]);
  });
});

describe("a key that is held", () => {
  it("runs at once, then 20 times a second after a moment, and ends once", () => {
    vi.useFakeTimers();
    const hold = new Hold();
    const runs: number[] = [];
    const ended = vi.fn();
    hold.start(() => runs.push(1), 0, ended);
    expect(runs.length).toBe(1);
    vi.advanceTimersByTime(270);
    expect(runs.length).toBe(1);
    vi.advanceTimersByTime(1000);
    expect(runs.length).toBeGreaterThanOrEqual(20);
    expect(runs.length).toBeLessThanOrEqual(22);
    hold.stop();
    const count = runs.length;
    vi.advanceTimersByTime(1000);
    hold.stop();
    expect(runs.length).toBe(count);
    expect(ended).toHaveBeenCalledTimes(1);
    vi.useRealTimers();
  });

  it("is called by what stands on it", () => {
    expect(keyOf({ key: " " })).toBe("Space");
    expect(keyOf({ key: "J" })).toBe("j");
    expect(keyOf({ key: "ArrowUp" })).toBe("ArrowUp");
    expect([keyWords("ArrowUp"), keyWords("j"), keyWords("Space")]).toEqual(["↑", "J", "Space"]);
  });
});
