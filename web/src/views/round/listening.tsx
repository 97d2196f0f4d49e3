// The water of a round: it moves while it sounds in the room, and tells nothing of what is right.

import { useEffect, useState } from "react";
import styled from "styled-components";
import type { RoundScene } from "../../realtime/use-round";
import { ink } from "../../theme/theme";

const WIDE = 350;
const HIGH = 120;
const MIDDLE = HIGH / 2;

const Picture = styled.svg`
  width: 100%;
  max-width: 32rem;
  height: auto;
  display: block;
  path {
    fill: none;
    stroke: ${ink.water};
    stroke-width: 3;
    transform: scaleY(0);
    transform-origin: 0 ${MIDDLE}px;
    transition: transform 0.5s;
  }
  &[data-sounds="true"] path {
    transform: scaleY(1);
    animation: drift 2.4s linear infinite;
  }
  line {
    stroke: ${ink.edge};
    stroke-width: 1.5;
    stroke-dasharray: 2 6;
  }
  @keyframes drift {
    from {
      transform: translateX(0);
    }
    to {
      transform: translateX(-${WIDE / 2}px);
    }
  }
`;
const WAVE = `M0,${MIDDLE}${Array.from({ length: 181 }, (_, n) => {
  const x = (n * WIDE * 1.5) / 180;
  const y = MIDDLE - 40 * Math.sin((4 * Math.PI * x) / WIDE);
  return `L${x.toFixed(1)},${y.toFixed(1)}`;
}).join("")}`;

export function Listening({ scene }: { scene: RoundScene }) {
  const lasts_s = scene.question?.lasts_s ?? 0;
  const [quiet, setQuiet] = useState<number | null>(null);
  const play = scene.number * 1000 + scene.plays;
  useEffect(() => {
    const timer = setTimeout(() => setQuiet(play), lasts_s * 1000);
    return () => clearTimeout(timer);
  }, [play, lasts_s]);
  const sounds = scene.plays > 0 && quiet !== play;
  return (
    <Picture viewBox={`0 0 ${WIDE} ${HIGH}`} aria-hidden="true" data-sounds={sounds}>
      <line x1="0" x2={WIDE} y1={MIDDLE} y2={MIDDLE} />
      <path d={WAVE} />
    </Picture>
  );
}
