import styled from "styled-components";
import type { Plan } from "../../api/client";
import { Float, height, Scale, SlantedName, slantedRoom } from "../../parts/float";
import { ink } from "../../theme/theme";
import { capital } from "../../words/formats";

type Left = Plan["strings"][number];
type Interval = Plan["intervals"][number];

const WIDTH = 620;
const LINE = 120;
const REACH = 88;
const BELOW = 246;
const ROW = 34;
const MOST_SOUR = 5;

const Figure = styled.figure`
  display: grid;
  gap: 0.75rem;
  svg {
    width: 100%;
    height: auto;
    display: block;
    background: ${ink.sheet};
    border-top: 1px solid ${ink.line};
    border-bottom: 1px solid ${ink.line};
  }
  text {
    fill: ${ink.text};
    font-size: 15px;
  }
  .name {
    font-weight: 700;
    font-size: 17px;
  }
  .scale {
    fill: ${ink.quiet};
    font-size: 14px;
  }
  .many {
    font-size: 12px;
  }
  .sour {
    fill: ${ink.amber};
    font-weight: 600;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    text-align: right;
    padding: 0.25rem 0.5rem;
    border-bottom: 1px solid ${ink.line};
    font-weight: 400;
  }
  th {
    color: ${ink.quiet};
  }
  th:first-child,
  td:first-child {
    text-align: left;
    padding-left: 0;
    font-weight: 600;
  }
  summary {
    line-height: 44px;
    font-weight: 600;
    cursor: pointer;
    width: fit-content;
  }
`;

/** All strings on the water as a plan leaves them, and the intervals it makes sour. */
export function OutcomePicture({ plan, edgeCents }: { plan: Plan; edgeCents: number }) {
  const shown = onePerCourse(plan);
  const step = (WIDTH - 76) / shown.length;
  const x = new Map(shown.map((one, index) => [one.number, 70 + step * (index + 0.5)]));
  const y = (cents: number) => LINE - REACH * height(cents, edgeCents);
  const sour = plan.intervals
    .filter((one) => one.sour && x.has(one.lower) && x.has(one.upper))
    .sort((one, two) => Math.abs(two.against_equal_cents) - Math.abs(one.against_equal_cents))
    .slice(0, MOST_SOUR);
  const marks = [edgeCents > 24 ? 20 : 10, 2].flatMap((cents) => [cents, -cents]);
  const small = shown.length > 8;
  const below = small ? BELOW + slantedRoom(shown) : BELOW;
  const tall = below + 14 + ROW * sour.length;
  return (
    <Figure>
      <svg viewBox={`0 0 ${WIDTH} ${tall}`} role="img" aria-label={inWords(plan, shown, sour)}>
        <rect x="0" y={LINE} width={WIDTH} height={REACH + 12} fill={ink.depth} opacity="0.55" />
        <Scale width={WIDTH} line={LINE} y={y} marks={marks} />
        {shown.map((one) => {
          const at = x.get(one.number) ?? 0;
          return (
            <g key={one.number}>
              <line
                x1={at}
                x2={at}
                y1={LINE}
                y2={y(one.equal_cents)}
                stroke={ink.water}
                strokeWidth="3"
              />
              {small ? (
                <circle cx={at} cy={y(one.equal_cents)} r="7" fill={ink.text} />
              ) : (
                <Float x={at} y={y(one.equal_cents)} cents={one.equal_cents} />
              )}
              {small ? (
                <SlantedName className="many" x={at + 4} y={BELOW - 16} words={one.label} />
              ) : (
                <text className="name" x={at} y={BELOW - 8} textAnchor="middle">
                  {capital(one.label)}
                </text>
              )}
            </g>
          );
        })}
        {sour.map((one, index) => (
          <Sour
            key={`${one.lower}-${one.upper}`}
            one={one}
            from={x.get(one.lower) ?? 0}
            to={x.get(one.upper) ?? 0}
            y={below + 10 + ROW * index}
          />
        ))}
      </svg>
      <figcaption>
        {sour.length > 0
          ? `Sour against equal temperament and against pure: ${sour.map((one) => sourWords(plan, one)).join("; ")}.`
          : "No interval between open strings is sour."}{" "}
        {fromPure(plan)}
      </figcaption>
      <details>
        <summary>The same in numbers</summary>
        <table>
          <thead>
            <tr>
              <th scope="col">String</th>
              <th scope="col">Hz</th>
              <th scope="col">Cents</th>
              <th scope="col">On these strings</th>
              <th scope="col">Error ±</th>
            </tr>
          </thead>
          <tbody>
            {plan.strings.map((one) => (
              <tr key={one.number}>
                <td>
                  {capital(one.label)} <small>{one.note}</small>
                </td>
                <td>{one.frequency_hz.toFixed(2)}</td>
                <td>{signed(one.equal_cents)}</td>
                <td>{signed(one.stiff_cents)}</td>
                <td>{error(plan, one).toFixed(1)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
    </Figure>
  );
}

function Sour({ one, from, to, y }: { one: Interval; from: number; to: number; y: number }) {
  const [left, right] = from < to ? [from, to] : [to, from];
  const middle = (left + right) / 2;
  const words = `${one.name}, ${Math.abs(one.against_equal_cents).toFixed(1)} ${one.against_equal_cents > 0 ? "wide" : "narrow"}`;
  const half = words.length * 3.7;
  const at = Math.max(half + 4, Math.min(WIDTH - half - 4, middle));
  return (
    <g>
      <path d={ripple(left, right, y)} fill="none" stroke={ink.amber} strokeWidth="2" />
      <text className="sour" x={at} y={y + 18} textAnchor="middle">
        {words}
      </text>
    </g>
  );
}

function ripple(left: number, right: number, y: number): string {
  const waves = Math.max(2, Math.round((right - left) / 14));
  const length = (right - left) / waves;
  let path = `M${left},${y}`;
  for (let wave = 0; wave < waves; wave++)
    path += ` q${length / 4},-5 ${length / 2},0 q${length / 4},5 ${length / 2},0`;
  return path;
}

function onePerCourse(plan: Plan): Left[] {
  const first = plan.strings.filter(
    (one) => !plan.strings.some((two) => two.course === one.course && two.number < one.number),
  );
  return first.length > 8 ? first : [...first].reverse();
}

function sourWords(plan: Plan, one: Interval): string {
  const label = (number: number) => plan.strings.find((two) => two.number === number)?.label ?? "";
  return `${label(one.lower)} to ${label(one.upper)}, ${one.name}, ${signed(one.against_equal_cents)} and ${signed(one.against_pure_cents)} cents`;
}

/** How far the intervals are from pure, each kind once, where a double stop would show it. */
function fromPure(plan: Plan): string {
  const kinds = new Map<string, number>();
  for (const one of plan.intervals)
    if (!one.sour && Math.abs(one.against_pure_cents) >= 1)
      kinds.set(one.name, one.against_pure_cents);
  if (kinds.size === 0) return "";
  const said = [...kinds].map(([name, cents]) => `${name} ${signed(cents)}`).join(", ");
  return `From pure, in cents: ${said}.`;
}

function inWords(plan: Plan, shown: Left[], sour: Interval[]): string {
  const strings = shown.map((one) => `${one.label} ${signed(one.equal_cents)}`).join(", ");
  const sours = sour.map((one) => sourWords(plan, one)).join("; ");
  return `Cents against equal temperament: ${strings}. ${sours ? `Sour: ${sours}.` : ""}`;
}

function error(plan: Plan, one: Left): number {
  return plan.expected.strings.find((two) => two.number === one.number)?.sd_cents ?? 0;
}

function signed(cents: number): string {
  const size = cents.toFixed(1);
  return cents > 0.05 ? `+${size}` : size === "-0.0" ? "0.0" : size;
}
