import { ink } from "../theme/theme";

const STILL_CENTS = 1;

/** A pitch on the water: hanging below the line low, riding above it high, a flat bar still. */
export function Float({ x, y, cents }: { x: number; y: number; cents: number }) {
  if (Math.abs(cents) < STILL_CENTS)
    return <rect x={x - 17} y={y - 4} width="34" height="8" fill={ink.text} />;
  const sweep = cents < 0 ? 0 : 1;
  return <path d={`M${x - 15},${y} A15,15 0 0 ${sweep} ${x + 15},${y} Z`} fill={ink.text} />;
}

const SOFT_CENTS = 4;

/** How high on a picture an offset stands, from -1 to 1: fine near the line, closer far away. */
export function height(cents: number, edgeCents: number): number {
  const part = Math.asinh(cents / SOFT_CENTS) / Math.asinh(edgeCents / SOFT_CENTS);
  return Math.max(-1, Math.min(1, part));
}

const SLANTED_A_LETTER = 5.8;

/** How much room the names of many strings need, which stand aslant. */
export function slantedRoom(strings: readonly { label: string }[]): number {
  return SLANTED_A_LETTER * Math.max(...strings.map((one) => one.label.length));
}

type NameProps = { x: number; y: number; className: string; words: string };

/** A name aslant, its end at a place. */
export function SlantedName({ x, y, className, words }: NameProps) {
  return (
    <text className={className} textAnchor="end" transform={`translate(${x} ${y}) rotate(-60)`}>
      {words}
    </text>
  );
}

type ScaleProps = { width: number; line: number; y: (cents: number) => number; marks: number[] };

/** Faint lines at some offsets, with their words, and the dotted waterline. */
export function Scale({ width, line, y, marks }: ScaleProps) {
  return (
    <>
      {marks.map((cents) => (
        <g key={cents}>
          <line x1="0" x2={width} y1={y(cents)} y2={y(cents)} stroke={ink.line} />
          <text className="scale" x="10" y={y(cents) - 4}>
            {Math.abs(cents)} {cents > 0 ? "high" : "low"}
          </text>
        </g>
      ))}
      <line
        x1="0"
        x2={width}
        y1={line}
        y2={line}
        stroke={ink.text}
        strokeWidth="1.5"
        strokeDasharray="2 6"
      />
    </>
  );
}
