// Everything that can be done while tuning, once: it feeds the buttons, the keys and the key sheet.

import type { AttemptPage, BenchAction, Scene, Verdict } from "../../api/client";

export type Stage = AttemptPage["stages"][number];

export type Command = {
  id: string;
  words: string;
  key: string;
  /** Repeats while the key or button is held. */
  held?: boolean;
  allowed: boolean;
  run: (pressedAt: number, coarse: boolean) => void;
};

export type Bench = {
  page: AttemptPage;
  scene: Scene;
  stage: Stage;
  selected: number;
  verdict: Verdict | null;
  act: (action: BenchAction, pressedAt?: number | null) => void;
  choose: (string: number) => void;
  judge: (verdict: Verdict) => void;
  moreCents: (by: number) => void;
  next: () => void;
  toggleStand: () => void;
  openKeys: () => void;
};

export const FINE_DEGREES = 0.5;
export const COARSE_DEGREES = 5;

export function labelOf(page: AttemptPage, number: number | null): string {
  if (number === null) return "the fork";
  return page.strings.find((string) => string.number === number)?.label ?? "";
}

/** The string that a finger stops in this stage, if any. */
export function stoppedString(stage: Stage): number | null {
  if (stage.own.fret > 0) return stage.own.string;
  return stage.other.fret > 0 ? stage.other.string : null;
}

export function commandsOf(bench: Bench): Command[] {
  const { page, scene, stage, selected, act } = bench;
  const own = stage.own.string ?? 0;
  const pair = [stage.own.string, stage.other.string].filter((n): n is number => n !== null);
  const stopped = stoppedString(stage);
  const fret = stopped === null ? 0 : (scene.strings[stopped - 1]?.fret ?? 0);
  const isStep = stage.kind === "step";
  const canJudge = isStep && !scene.judged.includes(scene.stage);
  const sound = (strings: number[], reference: boolean) => (pressedAt: number) =>
    act({ kind: "sound", strings, reference, strength: 0.7 }, pressedAt);
  const turn = (way: 1 | -1) => (pressedAt: number, coarse: boolean) =>
    act(
      { kind: "turn", string: selected, degrees: way * (coarse ? COARSE_DEGREES : FINE_DEGREES) },
      pressedAt,
    );
  const both = stage.other.string === null ? `fork and ${labelOf(page, own)}` : "both";
  const picked = labelOf(page, selected);

  return [
    {
      id: "both",
      words: `Sound ${both}`,
      key: "Space",
      allowed: true,
      run: sound(pair, stage.other.string === null),
    },
    {
      id: "alone",
      words: `${picked} alone`,
      key: "s",
      allowed: true,
      run: sound([selected], false),
    },
    { id: "fork", words: "Fork alone", key: "f", allowed: true, run: sound([], true) },
    {
      id: "damp",
      words: "Damp all",
      key: "d",
      allowed: true,
      run: (pressedAt) => act({ kind: "damp" }, pressedAt),
    },
    { id: "tighten", words: "Tighten", key: "ArrowUp", held: true, allowed: true, run: turn(1) },
    { id: "slacken", words: "Slacken", key: "ArrowDown", held: true, allowed: true, run: turn(-1) },
    ...page.strings
      .toSorted((a, b) => a.number - b.number)
      .map((string) => ({
        id: `string-${string.number}`,
        words: `Take the peg of ${string.label}`,
        key: String(string.number),
        allowed: true,
        run: () => bench.choose(string.number),
      })),
    {
      id: "finger-down",
      words: "Finger one fret lower",
      key: "ArrowLeft",
      allowed: stopped !== null && fret > 0,
      run: () => stopped !== null && act({ kind: "stop", string: stopped, fret: fret - 1 }),
    },
    {
      id: "finger-up",
      words: "Finger one fret higher",
      key: "ArrowRight",
      allowed: stopped !== null && fret < page.frets,
      run: () => stopped !== null && act({ kind: "stop", string: stopped, fret: fret + 1 }),
    },
    { id: "low", words: "Low", key: "j", allowed: canJudge, run: () => bench.judge("low") },
    { id: "still", words: "Still", key: "k", allowed: canJudge, run: () => bench.judge("still") },
    { id: "high", words: "High", key: "l", allowed: canJudge, run: () => bench.judge("high") },
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
      words: isStep ? "Next" : "Finish and see",
      key: "Enter",
      allowed: true,
      run: bench.next,
    },
    ...(["ear", "ripple", "level"] as const).map((aid) => ({
      id: aid,
      words: { ear: "Help: ear", ripple: "Help: ripple", level: "Help: level" }[aid],
      key: { ear: "e", ripple: "r", level: "w" }[aid],
      allowed: true,
      run: () => act({ kind: "help", aid }),
    })),
    { id: "stand", words: "Stand view", key: "v", allowed: true, run: bench.toggleStand },
    { id: "keys", words: "This list of keys", key: "?", allowed: true, run: bench.openKeys },
  ];
}
