import { useEffect, useRef } from "react";
import styled from "styled-components";
import type { Aid } from "../api/client";
import { player } from "../sound/player";
import { type Colours, drawWater } from "./draw-water";
import type { WaterLog } from "./water-log";

const Canvas = styled.canvas`
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
`;
const STILL_EVERY_MS = 400;
const COLOURS_EVERY_MS = 400;

type WaterProps = {
  log: WaterLog;
  aid: Aid;
  /** How near the string is to come, where low and high are shown. */
  toleranceCents?: number;
  /** What stands on the line, where low and high are shown. */
  name?: string;
};

/** The picture of what sounds, drawn from what the speaker plays. Its words stand beside it. */
export function Water({ log, aid, toleranceCents = 0, name = "" }: WaterProps) {
  const canvas = useRef<HTMLCanvasElement>(null);

  useEffect(() => player.onBeat(log.hear), [log]);

  useEffect(() => {
    const element = canvas.current;
    const ink = element?.getContext("2d");
    if (!element || !ink) return;
    const still = matchMedia("(prefers-reduced-motion: reduce)");
    let colours = coloursOf(element);
    let coloured = 0;
    let drawn = 0;
    let frame = 0;
    const draw = (now: number) => {
      frame = requestAnimationFrame(draw);
      if (still.matches && now - drawn < STILL_EVERY_MS) return;
      // Nothing moves on a still line: once it is drawn, it is left alone until something sounds.
      const fresh = now - coloured > COLOURS_EVERY_MS;
      if (log.idle() && !fresh) return;
      drawn = now;
      if (fresh) {
        colours = coloursOf(element);
        coloured = now;
      }
      const scale = devicePixelRatio;
      const { clientWidth: width, clientHeight: height } = element;
      if (element.width !== Math.round(width * scale)) element.width = Math.round(width * scale);
      if (element.height !== Math.round(height * scale)) {
        element.height = Math.round(height * scale);
      }
      ink.setTransform(scale, 0, 0, scale, 0, 0);
      drawWater(ink, log, {
        width,
        height,
        now: performance.now(),
        level: aid === "level" || aid === "tuner",
        still: still.matches,
        toleranceCents,
        name,
        colours,
      });
    };
    frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [log, aid, toleranceCents, name]);

  return <Canvas ref={canvas} aria-hidden="true" />;
}

function coloursOf(element: HTMLElement): Colours {
  const style = getComputedStyle(element);
  const colour = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    text: colour("text"),
    quiet: colour("quiet"),
    shade: colour("shade"),
    water: colour("water"),
    depth: colour("depth"),
  };
}
