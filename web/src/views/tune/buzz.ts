// The beat in the hand: a phone buzzes once at every swell of the sounding pair.

import { useEffect, useState } from "react";
import { player } from "../../sound/player";

const KEY = "meldrin:buzz";
const BUZZ_MS = 40;
const FASTEST_HZ = 8; // quicker ones run together in the hand

export const canBuzz = (): boolean =>
  "vibrate" in navigator && matchMedia("(pointer: coarse)").matches;

/** Whether it buzzes, and a way to change that. It follows the phases that the speaker plays. */
export function useBuzz(allowed: boolean): [boolean, (on: boolean) => void] {
  const [on, set] = useState(localStorage.getItem(KEY) === "on");
  useEffect(() => {
    if (!on || !allowed || !canBuzz()) return;
    let before = -1;
    return player.onBeat((beat) => {
      if (beat.kind === "silent" || beat.other === 0 || beat.hz > FASTEST_HZ) return;
      const swell = Math.cos(beat.phase);
      if (before <= 0 && swell > 0) navigator.vibrate(BUZZ_MS);
      before = swell;
    });
  }, [on, allowed]);
  return [
    on,
    (next) => {
      localStorage.setItem(KEY, next ? "on" : "off");
      set(next);
    },
  ];
}
