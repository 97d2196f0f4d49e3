// Where a class left its strings: each dot is a pupil, down is low.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE } from "../../theme/theme";
import { howFar } from "../../words/formats";

const Frame = styled.figure`
  display: grid;
  gap: 0.4rem;
  svg {
    display: block;
    width: 100%;
    height: auto;
    background: ${ink.sheet};
  }
  text {
    fill: ${ink.quiet};
    font-size: 14px;
  }
  text.string {
    fill: ${ink.text};
    font-size: 20px;
    font-weight: 700;
  }
  circle {
    fill: ${ink.water};
    stroke: ${ink.sheet};
    stroke-width: 1.5;
  }
  figcaption {
    color: ${ink.quiet};
    font-size: 0.9375rem;
  }
`;

const WIDE = 830;
const NARROW = 420;
const HEIGHT = 330;
const MIDDLE = 150;
const EDGE = 24;
const LEFT = 96; // for what the lines mean
const REACHES = 3; // tolerances; what is further off stands at the edge
const DOT = 7;

type Props = {
  strings: Schemas["ClassString"][];
  tolerance: number;
  /** Null where no names are shown. */
  names: string[] | null;
};

export function ClassPicture({ strings, tolerance, names }: Props) {
  const width = useMedia(PHONE) ? NARROW : WIDE;
  const scale = (MIDDLE - EDGE) / (REACHES * tolerance);
  const column = (width - LEFT) / strings.length;
  const high = MIDDLE - tolerance * scale;
  const low = MIDDLE + tolerance * scale;
  const size = Math.round(tolerance * 10) / 10;
  return (
    <Frame>
      <svg viewBox={`0 0 ${width} ${HEIGHT}`} role="img" aria-label={saidOf(strings)}>
        <line x1="0" x2={width} y1={high} y2={high} stroke={ink.line} strokeWidth="2" />
        <line x1="0" x2={width} y1={low} y2={low} stroke={ink.line} strokeWidth="2" />
        <line
          x1="0"
          x2={width}
          y1={MIDDLE}
          y2={MIDDLE}
          stroke={ink.edge}
          strokeWidth="2"
          strokeDasharray="2 6"
        />
        <text x="10" y={high - 7}>
          {size} cents high
        </text>
        <text x="10" y={low + 18}>
          {size} cents low
        </text>
        {strings.map((string, at) => (
          <g key={string.string}>
            <text
              className="string"
              x={LEFT + (at + 0.5) * column}
              y={HEIGHT - 12}
              textAnchor="middle"
            >
              {string.label}
            </text>
            {placed(string.dots, scale).map(({ x, y, dot }) => (
              <circle key={dot.pupil} cx={LEFT + (at + 0.5) * column + x} cy={y} r={DOT}>
                <title>
                  {names ? `${names[dot.pupil]}: ${howFar(dot.cents)}` : howFar(dot.cents)}
                </title>
              </circle>
            ))}
          </g>
        ))}
      </svg>
      <figcaption>Each dot is a pupil. Down is low. Far off stands at the edge.</figcaption>
    </Frame>
  );
}

type Dot = Schemas["ClassDot"];

/** Dots beside each other where they would lie upon each other. */
function placed(dots: Dot[], scale: number): { x: number; y: number; dot: Dot }[] {
  const sorted = [...dots].sort((one, other) => one.cents - other.cents);
  const done: { x: number; y: number; dot: Dot }[] = [];
  for (const dot of sorted) {
    const y = Math.max(EDGE, Math.min(2 * MIDDLE - EDGE, MIDDLE - dot.cents * scale));
    const near = done.filter((one) => Math.abs(one.y - y) < 2 * DOT);
    let step = 0;
    const at = () => (step % 2 === 0 ? 1 : -1) * Math.ceil(step / 2) * 2.1 * DOT;
    while (near.some((one) => Math.abs(one.x - at()) < 2 * DOT)) step += 1;
    done.push({ x: at(), y, dot });
  }
  return done;
}

function saidOf(strings: Schemas["ClassString"][]): string {
  return strings
    .map((one) => `${one.label}: ${one.low} low, ${one.well} in tune, ${one.high} high`)
    .join(". ");
}
