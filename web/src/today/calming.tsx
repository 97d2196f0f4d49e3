import { ink } from "../theme/theme";

const WIDTH = 1200;
const LINE = 78;

/** A surface whose ripples slow down and come to rest, from left to right: what this is about. */
function surface(): string {
  const points: string[] = [];
  let phase = 0;
  for (let x = 0; x <= WIDTH; x += 2) {
    const left = Math.max(0, 1 - x / (WIDTH * 0.86));
    phase += 0.012 + 0.2 * left ** 1.6;
    const low = 26 * left ** 1.4;
    points.push(`${x},${(LINE + low - 17 * left ** 0.7 * Math.cos(phase)).toFixed(1)}`);
  }
  return points.join(" ");
}

const POINTS = surface();

export function Calming() {
  return (
    <svg viewBox={`0 0 ${WIDTH} 168`} preserveAspectRatio="none" aria-hidden="true">
      <polygon points={`0,168 ${POINTS} ${WIDTH},168`} fill={ink.depth} />
      <polyline
        points={POINTS}
        fill="none"
        stroke={ink.water}
        strokeWidth="2.5"
        vectorEffect="non-scaling-stroke"
      />
      <line
        x1="0"
        x2={WIDTH}
        y1={LINE}
        y2={LINE}
        stroke={ink.text}
        strokeWidth="1.5"
        strokeDasharray="2 6"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
