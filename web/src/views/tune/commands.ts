// Everything that can be done while tuning, once: it feeds the buttons, the keys and the key sheet.

import type { Aid, AttemptPage, BenchAction, Scene, Schemas, Verdict } from "../../api/client";
import { capital } from "../../words/formats";
import { AIDS, nameOf } from "../../words/names";
import { labelOf, stringOf } from "../../words/labels";
import type { Playing } from "./playing";
import { named } from "../../words/notes";

export type Stage = AttemptPage["stages"][number];
export type Chord = AttemptPage["chords"][number];

export type Answer = {
  fault: Schemas["FindFault"]["fault"] | null;
  string: number;
  remedy: Schemas["FindFault"]["remedy"] | null;
};
export const OF_ONE_STRING: readonly string[] = ["false", "slip"];

/** Whether all of the answer is there. */
export function isAnswered({ fault, string, remedy }: Answer): boolean {
  return fault !== null && remedy !== null && (string > 0 || !OF_ONE_STRING.includes(fault));
}

export type Command = {
  id: string;
  words: string;
  key: string;
  /** Repeats while the key or button is held. */
  held?: boolean;
  /** What letting go of it does. */
  ended?: () => void;
  allowed: boolean;
  /** Whether it can ever do something in this exercise; what cannot is not listed. */
  fits?: boolean;
  run: (pressedAt: number, coarse: boolean) => void;
};

export type Bench = {
  page: AttemptPage;
  scene: Scene;
  /** Null in free play. */
  stage: Stage | null;
  selected: number;
  verdict: Verdict | null;
  playing: Playing;
  /** Says low, high or cannot tell before the first turn. */
  decide: (verdict: "low" | "high" | "unsure") => void;
  act: (action: BenchAction, pressedAt?: number | null) => void;
  play: (changed: Partial<Playing>) => void;
  choose: (string: number) => void;
  judge: (verdict: Verdict) => void;
  /** Has the bench put this step's string out again, and hides the help. */
  putOut: () => void;
  moreCents: (by: number) => void;
  help: (aid: Aid) => void;
  next: () => void;
  /** How often each string has been played since the page was opened. */
  strikes: Readonly<Record<number, number>>;
  /** The chord under the hand: that of the stage, or in free play the one chosen. */
  chord: Chord | null;
  layChord: (name: string | null) => void;
  /** What is said to be wrong with the instrument, where that is the question. */
  answer: Answer;
  changeAnswer: (some: Partial<Answer>) => void;
  toggleStand: () => void;
  open: (sheet: "keys" | "playing" | "tuner" | "away") => void;
};

const TOUCH_STEP = 0.1;
/** How far a movable fret slides at a press, fine to far. */
const SLIDES_MM = [0.2, 1, 4] as const;

export function behaves(page: AttemptPage, behaviour: string): boolean {
  return (page.exercise.behaviours ?? []).some((one) => one === behaviour);
}

/** The sides of this stage that a finger stops or touches. */
export function fingered(stage: Stage | null): number[] {
  if (!stage) return [];
  return [stage.own, stage.other]
    .filter((side) => side.string !== null && ((side.fret ?? 0) > 0 || side.node_fret !== null))
    .map((side) => side.string ?? 0);
}

/** The movable fret that this stage sets, or 0. */
export function fretToSet(stage: Stage | null): number {
  return stage?.sets_fret ? (stage.own.fret ?? 0) : 0;
}

/** Whether the peg of a string has to be pushed in while it is turned. */
export function wantsPushing(page: AttemptPage, number: number): boolean {
  return stringOf(page, number).peg.friction && behaves(page, "pegs");
}

/** Whether a finger on this string only touches it: where the plan has it so, or as it lies. */
export function touches({ stage, scene }: Bench, number: number): boolean {
  const now = scene.strings[number - 1];
  if (now && now.fret > 0) return now.touched;
  return [stage?.own, stage?.other].some(
    (side) => side?.string === number && side.node_fret !== null,
  );
}

/** Lay the finger on a string, or lift it at 0. */
export function lay(bench: Bench, number: number, fret: number): void {
  const touch = touches(bench, number) && fret > 0;
  const { hard = false, light = false } = bench.scene.strings[number - 1] ?? {};
  const place = touch ? round(fret) : Math.round(fret);
  bench.act({ kind: "stop", string: number, fret: place, touch, hard, light });
}

export function commandsOf(bench: Bench): Command[] {
  const { page, scene, stage, selected, playing, act } = bench;
  const picked = labelOf(page, selected);
  const string = stringOf(page, selected);
  const now = scene.strings[selected - 1];
  const { chord } = bench;
  const called = chord ? named(chord.name, page.exercise.naming) : null;
  const isFault = page.faults.length > 0;
  const { aids } = page.exercise;
  const pair = stage ? stage.strings : (chord?.strings ?? [selected]);
  const alone = isFault || (chord !== null && !chord.drone);
  const withReference = stage ? stage.with_reference : page.reference.sounds && !alone;
  const stroke = { strength: playing.strength, place: playing.place, way: playing.way };
  const sound = (strings: number[], reference: boolean) => (pressedAt: number) =>
    act(
      { kind: "play", strings, reference, by_prongs: playing.byProngs && reference, ...stroke },
      pressedAt,
    );
  const fine = playing.fine && string.fine_turns !== null;
  const turn = (way: 1 | -1) => (pressedAt: number, larger: boolean) => {
    const sizes = (fine ? string.fine_turns : null) ?? string.turns;
    const size = Math.min(2, playing.size + (larger ? 1 : 0));
    const degrees = way * (sizes[size] ?? 0.5);
    act({ kind: "turn", string: selected, degrees, pushed: playing.pushed, fine }, pressedAt);
  };
  // where a fret is set, the same two keys slide it: up is towards the bridge
  const setting = fretToSet(stage);
  const slide = (way: 1 | -1) => (pressedAt: number, larger: boolean) => {
    const mm = way * (SLIDES_MM[Math.min(2, playing.size + (larger ? 1 : 0))] ?? 1);
    act({ kind: "slide_fret", fret: setting, mm }, pressedAt);
  };
  const letGo =
    wantsPushing(page, selected) && !fine && !setting
      ? { ended: () => act({ kind: "let_go", string: selected }) }
      : {};
  const finger = fingered(stage).includes(selected) ? selected : (fingered(stage)[0] ?? selected);
  const held = scene.strings[finger - 1];
  const moveFinger = (way: 1 | -1) => {
    const step = touches(bench, finger) ? TOUCH_STEP : 1;
    lay(bench, finger, Math.max(0, (held?.fret ?? 0) + way * step));
  };
  // in the search for a fault the same key presses more lightly
  const canPressHard = behaves(page, "fretting") && page.frets > 0 && !isFault;
  const isStep = stage?.kind === "step";
  const canJudge = (isStep || setting > 0) && scene.may_judge;
  const canDecide = isStep && scene.may_decide;
  const order = page.strings.map((one) => one.number).toSorted((a, b) => b - a);
  const beside = (by: 1 | -1) => {
    const at = order.indexOf(selected) + by;
    bench.choose(order[(at + order.length) % order.length] ?? selected);
  };
  const bow = page.bowed && playing.way !== "pluck" ? "Bow" : "Play";
  const sounded = stage ? labelOf(page, stage.own.string) : picked;
  const together = withReference
    ? `Play ${page.reference.words} and ${called ?? sounded}`
    : `${bow} ${stage && pair.length > 1 ? "both" : picked}`;
  const bothWords = chord && !withReference ? `${bow} ${called}` : together;

  return [
    { id: "both", words: bothWords, key: "Space", allowed: true, run: sound(pair, withReference) },
    {
      id: "alone",
      words: `${picked} alone`,
      key: "s",
      allowed: true,
      run: sound([selected], false),
    },
    {
      id: "reference",
      words: `${capital(page.reference.words.replace(/^tuner’s /, ""))} alone`,
      key: "f",
      allowed: !isFault && (page.reference.sounds || page.reference.in_question || !stage),
      fits: !isFault && (page.reference.sounds || page.reference.in_question || !stage),
      run: sound([], true),
    },
    {
      id: "chord",
      words: "Next chord",
      key: "x",
      allowed: stage === null && page.chords.length > 0 && !isFault,
      fits: stage === null && page.chords.length > 0 && !isFault,
      run: () => {
        const at = page.chords.findIndex((one) => one.name === chord?.name);
        bench.layChord(page.chords[at + 1]?.name ?? null);
      },
    },
    {
      id: "mute-all",
      words: "Mute all",
      key: "d",
      allowed: true,
      run: (pressedAt) => act({ kind: "mute_all" }, pressedAt),
    },
    {
      id: "mute-others",
      words: scene.muted ? "Let the others ring" : "Mute the others",
      key: "m",
      allowed: true,
      run: () => act({ kind: "mute_others", on: !scene.muted }),
    },
    {
      id: "playing",
      words: "How you play",
      key: "y",
      allowed: true,
      run: () => bench.open("playing"),
    },
    {
      id: "tighten",
      words: setting ? `Slide fret ${setting} up` : "Tighten",
      key: "ArrowUp",
      held: true,
      allowed: true,
      run: setting ? slide(1) : turn(1),
      ...letGo,
    },
    {
      id: "loosen",
      words: setting ? `Slide fret ${setting} down` : "Loosen",
      key: "ArrowDown",
      held: true,
      allowed: true,
      run: setting ? slide(-1) : turn(-1),
      ...letGo,
    },
    {
      id: "push",
      words: playing.pushed ? "Stop pushing the peg in" : "Push the peg in",
      key: "i",
      allowed: wantsPushing(page, selected),
      fits: page.strings.some((one) => wantsPushing(page, one.number)),
      run: () => bench.play({ pushed: !playing.pushed }),
    },
    {
      id: "fine",
      words: playing.fine ? "Take the peg" : "Take the fine tuner",
      key: "n",
      allowed: string.fine_turns !== null,
      fits: page.strings.some((one) => one.fine_turns !== null),
      run: () => bench.play({ fine: !playing.fine }),
    },
    {
      id: "settle",
      words: `Pull ${picked} to settle it`,
      key: "p",
      allowed: !(now?.broken ?? false),
      run: () => act({ kind: "settle", string: selected }),
    },
    {
      id: "lay",
      words: scene.lying ? "Take it up, as you play" : "Lay it down",
      key: "z",
      allowed: scene.lying !== null,
      fits: behaves(page, "lying"),
      run: () => act({ kind: "lay", down: scene.lying === false }),
    },
    {
      id: "replace",
      words: `Put a new ${picked} on`,
      key: "a",
      allowed: now?.broken ?? false,
      fits: behaves(page, "breaking"),
      run: () => act({ kind: "replace", string: selected }),
    },
    {
      id: "leave-off",
      words: "Leave it off",
      key: "b",
      allowed: (now?.broken ?? false) && !(now?.off ?? false),
      fits: behaves(page, "breaking"),
      run: () => act({ kind: "leave_off", string: selected }),
    },
    ...page.strings
      .filter((one) => one.number <= 9)
      .toSorted((a, b) => a.number - b.number)
      .map((one) => ({
        id: `string-${one.number}`,
        words: `Take the ${one.peg.words} of ${one.label}`,
        key: String(one.number),
        allowed: true,
        run: () => bench.choose(one.number),
      })),
    { id: "lower", words: "The peg before", key: "[", allowed: true, run: () => beside(-1) },
    { id: "higher", words: "The next peg", key: "]", allowed: true, run: () => beside(1) },
    {
      id: "finger-down",
      words: "Finger towards the nut",
      key: "ArrowLeft",
      allowed: (held?.fret ?? 0) > 0,
      run: () => moveFinger(-1),
    },
    {
      id: "finger-up",
      words: "Finger towards the bridge",
      key: "ArrowRight",
      allowed: true,
      run: () => moveFinger(1),
    },
    {
      id: "hard",
      words: held?.hard ? "Press lightly" : "Press hard",
      key: "h",
      fits: canPressHard,
      allowed: canPressHard && !held?.touched && (held?.fret ?? 0) > 0,
      run: () => {
        if (!held) return;
        act({ kind: "stop", string: finger, fret: held.fret, touch: false, hard: !held.hard });
      },
    },
    {
      id: "light",
      words: held?.light ? "Press as usual" : "Press lightly",
      key: "h",
      fits: isFault && page.frets > 0,
      allowed: isFault && !held?.touched && (held?.fret ?? 0) > 0,
      run: () => {
        if (!held) return;
        act({ kind: "stop", string: finger, fret: held.fret, touch: false, light: !held.light });
      },
    },
    {
      id: "touch",
      words: held?.touched ? "Press down" : "Touch lightly",
      key: "g",
      allowed: (held?.fret ?? 0) > 0,
      run: () => {
        if (!held) return;
        const touch = !held.touched;
        const fret = touch ? held.fret : Math.max(1, Math.round(held.fret));
        act({ kind: "stop", string: finger, fret, touch, hard: false });
      },
    },
    {
      id: "low",
      words: "Low",
      key: "j",
      allowed: canJudge || canDecide,
      run: () => (canDecide ? bench.decide("low") : bench.judge("low")),
    },
    {
      id: "in-tune",
      words: "In tune",
      key: "k",
      allowed: canJudge,
      run: () => bench.judge("in_tune"),
    },
    {
      id: "high",
      words: "High",
      key: "l",
      allowed: canJudge || canDecide,
      run: () => (canDecide ? bench.decide("high") : bench.judge("high")),
    },
    {
      id: "unsure",
      words: "Cannot tell",
      key: "u",
      allowed: canDecide,
      run: () => bench.decide("unsure"),
    },
    {
      id: "put-out",
      words: `Put ${sounded} out again, by ear`,
      key: "q",
      allowed: scene.may_put_out,
      fits: page.stages.some((one) => one.kind === "step" && !one.by_tuner),
      run: bench.putOut,
    },
    {
      id: "fewer",
      words: "Fewer cents",
      key: ",",
      allowed: canJudge,
      run: () => bench.moreCents(-1),
    },
    { id: "more", words: "More cents", key: ".", allowed: canJudge, run: () => bench.moreCents(1) },
    {
      id: "next",
      words: isFault
        ? "Say it and see"
        : stage === null || isLast(page, scene)
          ? "Finish and see"
          : "Next",
      key: "Enter",
      allowed: !isFault || isAnswered(bench.answer),
      run: bench.next,
    },
    ...AIDS.map((aid) => ({
      id: aid,
      words: `Help: ${nameOf("aids", aid)}`,
      key: { ear: "e", ripple: "r", level: "w", tuner: "t" }[aid],
      allowed: !aids?.length || aids.includes(aid),
      run: () => bench.help(aid),
    })),
    {
      id: "tuner-settings",
      words: "Set the tuner",
      key: "o",
      allowed: scene.aid === "tuner" || (stage?.by_tuner ?? false),
      run: () => bench.open("tuner"),
    },
    {
      id: "away",
      words: "Come back later",
      key: "c",
      allowed: ["creep", "room", "nut"].some((one) => behaves(page, one)),
      fits: ["creep", "room", "nut"].some((one) => behaves(page, one)),
      run: () => bench.open("away"),
    },
    { id: "stand", words: "Music-stand view", key: "v", allowed: true, run: bench.toggleStand },
    {
      id: "keys",
      words: "This list of keys",
      key: "?",
      allowed: true,
      run: () => bench.open("keys"),
    },
  ];
}

function isLast(page: AttemptPage, scene: Scene): boolean {
  return scene.stage === page.stages.length - 1;
}

function round(fret: number): number {
  return Math.round(fret * 100) / 100;
}
