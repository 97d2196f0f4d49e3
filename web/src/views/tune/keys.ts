// Keys: which key does what (a learner may change it), and listening for them.

import { useEffect, useRef, useState } from "react";
import type { Command } from "./commands";

const STORE = "meldrin:keys";
const REPEAT_AFTER_MS = 280;
const REPEAT_EVERY_MS = 50;

export type KeyMap = Record<string, string>;

export function keyWords(key: string): string {
  const arrows: Record<string, string> = {
    ArrowUp: "↑",
    ArrowDown: "↓",
    ArrowLeft: "←",
    ArrowRight: "→",
  };
  return arrows[key] ?? (key.length === 1 ? key.toUpperCase() : key);
}

export function keyOf(event: { key: string }): string {
  if (event.key === " ") return "Space";
  return event.key.length === 1 ? event.key.toLowerCase() : event.key;
}

/** The changed keys, and a way to change one; two commands never share a key: they swap. */
export function useKeyMap(): [
  KeyMap,
  (commands: Command[], id: string, key: string) => void,
  () => void,
] {
  const [map, setMap] = useState<KeyMap>(() => {
    try {
      return JSON.parse(localStorage.getItem(STORE) ?? "{}") as KeyMap;
    } catch {
      return {};
    }
  });
  const keep = (next: KeyMap) => {
    localStorage.setItem(STORE, JSON.stringify(next));
    setMap(next);
  };
  const assign = (commands: Command[], id: string, key: string) => {
    const now = Object.fromEntries(commands.map((c) => [c.id, map[c.id] ?? c.key]));
    const other = commands.find((c) => c.id !== id && now[c.id] === key);
    const mine = now[id];
    keep({ ...map, [id]: key, ...(other && mine ? { [other.id]: mine } : {}) });
  };
  return [map, assign, () => keep({})];
}

/** Something that repeats while it is held: at once, then after a moment 20 times a second. */
export class Hold {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private ended: (() => void) | null = null;

  start(run: (pressedAt: number) => void, pressedAt: number, ended?: () => void): void {
    this.stop();
    this.ended = ended ?? null;
    run(pressedAt);
    const again = () => {
      run(performance.now());
      this.timer = setTimeout(again, REPEAT_EVERY_MS);
    };
    this.timer = setTimeout(again, REPEAT_AFTER_MS);
  }

  /** Whether something is being held. */
  get isOn(): boolean {
    return this.timer !== undefined;
  }

  stop(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const ended = this.ended;
    this.ended = null;
    ended?.();
  }
}

/** Listen for the keys of the commands. A focused control keeps Space, Enter and its own arrows. */
export function useKeys(commands: Command[], hold: Hold, active: boolean): void {
  const latest = useRef(commands);
  useEffect(() => {
    latest.current = commands;
  });
  // A button that was pressed with a finger or a mouse may have the focus, but not the keys: only
  // who has come to it by Tab means it with Space or Enter.
  const byPointer = useRef(!document.activeElement?.matches(":focus-visible"));
  useEffect(() => {
    if (!active) return;
    const pointed = () => {
      byPointer.current = true;
    };
    const down = (event: KeyboardEvent) => {
      if (event.key === "Tab") byPointer.current = false;
      if (event.ctrlKey || event.metaKey || event.altKey || ownsKey(event, byPointer.current))
        return;
      const command = latest.current.find((one) => one.key === keyOf(event));
      if (!command) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.repeat || !command.allowed) return;
      const coarse = event.shiftKey;
      const at = event.timeStamp;
      if (command.held) {
        const id = command.id;
        hold.start(
          (pressedAt) => latest.current.find((one) => one.id === id)?.run(pressedAt, coarse),
          at,
          command.ended,
        );
      } else command.run(at, coarse);
    };
    const stop = () => hold.stop();
    addEventListener("pointerdown", pointed, true);
    addEventListener("keydown", down, true);
    addEventListener("keyup", stop);
    addEventListener("blur", stop);
    document.addEventListener("visibilitychange", stop);
    return () => {
      stop();
      removeEventListener("pointerdown", pointed, true);
      removeEventListener("keydown", down, true);
      removeEventListener("keyup", stop);
      removeEventListener("blur", stop);
      document.removeEventListener("visibilitychange", stop);
    };
  }, [hold, active]);
}

function ownsKey(event: KeyboardEvent, byPointer: boolean): boolean {
  const target = event.target instanceof Element ? event.target : null;
  if (!target) return false;
  if (target.closest("[role=dialog], [role=alertdialog], textarea")) return true;
  if (target.closest("input:not([type=range])")) return true;
  if (target.closest("input[type=range]")) return keyOf(event).startsWith("Arrow");
  const key = keyOf(event);
  if (key === "Space" || key === "Enter") return !byPointer && target.closest("button, a") !== null;
  return (
    !byPointer &&
    key.startsWith("Arrow") &&
    target.closest("[role=radiogroup], [role=toolbar]") !== null
  );
}
