// How an instrument and a method have gone over time, with the help that was used.

import { useState } from "react";
import styled from "styled-components";
import type { Attempt } from "../../api/client";
import { Choice } from "../../parts/choice";
import { Table } from "../../parts/layout";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE, phone } from "../../theme/theme";
import { dayAndTime } from "../../words/formats";
import { aboutOf, methodOf } from "../../words/names";

const Figure = styled.figure`
  display: grid;
  gap: 0.5rem;
  svg {
    width: 100%;
    height: auto;
    display: block;
    overflow: visible;
  }
  text {
    font-size: 13px;
    fill: ${ink.quiet};
  }
  figcaption {
    display: flex;
    flex-wrap: wrap;
    justify-content: space-between;
    align-items: center;
    gap: 0.5rem 1rem;
    [role="radiogroup"] {
      min-width: min(100%, 22rem);
    }
  }
`;
const Legend = styled.p`
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 1.25rem;
  color: ${ink.quiet};
  font-size: 0.9375rem;
  svg {
    width: 14px;
    height: 14px;
    display: inline-block;
    margin-right: 0.4rem;
  }
`;

type Shown = "cents" | "technique" | "points";
const SHOWN: Record<Shown, { words: string; of: (attempt: Attempt) => number | null }> = {
  cents: { words: "Cents off", of: ({ brief }) => brief?.median_cents ?? null },
  technique: {
    words: "Technique",
    of: ({ brief }) => (brief?.technique == null ? null : 100 * brief.technique),
  },
  points: { words: "Points", of: ({ points }) => points },
};
const WIDE = 960;
const NARROW = 420;
const HEIGHT = 190;
const LEFT = 44;
const BOTTOM = 24;
const STEPS = [5, 10, 20, 40, 80, 160, 400];
const UNITS: Record<Shown, string> = { cents: "", technique: " %", points: "" };

/** The help that was used, by its shape: the less it tells, the fuller. */
function Mark({ x, y, aid }: { x: number; y: number; aid: string | undefined }) {
  if (aid === "ear") return <circle cx={x} cy={y} r="5" fill={ink.text} />;
  if (aid === "ripple")
    return <circle cx={x} cy={y} r="4.5" fill={ink.paper} stroke={ink.text} strokeWidth="2.5" />;
  return (
    <rect
      x={x - 4.5}
      y={y - 4.5}
      width="9"
      height="9"
      fill={ink.paper}
      stroke={ink.text}
      strokeWidth="2"
    />
  );
}

function said(shown: Shown, value: number): string {
  if (shown === "cents") return `${value.toFixed(1)} cents off`;
  return shown === "technique"
    ? `${Math.round(value)} % of technique`
    : `${Math.round(value)} points`;
}

/** One line over the attempts in their order; the table below it says the same. */
export function Progress({ attempts }: { attempts: Attempt[] }) {
  const [shown, show] = useState<Shown>("cents");
  const { of } = SHOWN[shown];
  const width = useMedia(PHONE) ? NARROW : WIDE;
  const order = attempts
    .flatMap((attempt) => {
      const value = of(attempt);
      return value === null ? [] : [{ attempt, value }];
    })
    .toReversed();
  const highest = Math.max(0, ...order.map(({ value }) => value));
  const most = shown === "cents" ? (STEPS.find((step) => step >= highest) ?? highest) : 100;
  const x = (index: number) =>
    LEFT + 14 + (index * (width - LEFT - 28)) / Math.max(1, order.length - 1);
  const y = (value: number) => HEIGHT - BOTTOM - ((HEIGHT - BOTTOM - 12) * value) / most;
  const path = order.map(({ value }, index) => `${x(index)},${y(value)}`).join(" ");
  const used = [...new Set(order.map(({ attempt }) => attempt.brief?.aid ?? "none"))];
  return (
    <Figure>
      <figcaption>
        <h2>Over time</h2>
        <Choice
          label="What to show"
          value={shown}
          options={(["cents", "technique", "points"] as const).map((id) => ({
            id,
            words: SHOWN[id].words,
          }))}
          onChoose={show}
        />
      </figcaption>
      <svg
        viewBox={`0 0 ${width} ${HEIGHT}`}
        role="img"
        aria-label={`${SHOWN[shown].words}, from the first attempt to the newest: ${order
          .map(({ value }) => said(shown, value))
          .join(", ")}`}
      >
        {[0, most / 2, most].map((value) => (
          <g key={value}>
            <line x1={LEFT} x2={width} y1={y(value)} y2={y(value)} stroke={ink.line} />
            <text x={LEFT - 8} y={y(value) + 4} textAnchor="end">
              {value}
              {UNITS[shown]}
            </text>
          </g>
        ))}
        <polyline points={path} fill="none" stroke={ink.water} strokeWidth="2.5" />
        {order.map(({ attempt, value }, index) => (
          <g key={attempt.id}>
            <title>{`${attempt.title ?? attempt.name}, ${dayAndTime(attempt.created_at)}: ${said(shown, value)}`}</title>
            <Mark x={x(index)} y={y(value)} aid={attempt.brief?.aid} />
          </g>
        ))}
      </svg>
      <Legend>
        {used.map((aid) => (
          <span key={aid}>
            <svg viewBox="0 0 14 14" aria-hidden="true">
              <Mark x={7} y={7} aid={aid} />
            </svg>
            {aboutOf("bases", aid)}
          </span>
        ))}
      </Legend>
    </Figure>
  );
}

const Groups = styled(Table)`
  ${phone} {
    font-size: 0.9375rem;
    th:nth-child(5),
    td:nth-child(5) {
      display: none;
    }
  }
`;

type Group = { key: string; words: string; attempts: Attempt[] };

/** The attempts by instrument and method, the most practised first. */
function grouped(attempts: Attempt[]): Group[] {
  const groups = new Map<string, Group>();
  for (const attempt of attempts) {
    const { exercise } = attempt;
    if (!exercise) continue;
    const key = `${exercise.instrument} ${exercise.method}`;
    const method = methodOf(exercise.method ?? "")?.name.split(" (")[0] ?? "";
    const group = groups.get(key) ?? {
      key,
      words: `${attempt.instrument_name}, ${method.toLowerCase()}`,
      attempts: [],
    };
    group.attempts.push(attempt);
    groups.set(key, group);
  }
  return [...groups.values()].sort((a, b) => b.attempts.length - a.attempts.length);
}

const FEW = 3;

/** From the first few to the last few: the middle of each. */
function fromTo(values: (number | null)[], unit: string): string {
  const known = values.filter((value) => value !== null).toReversed();
  if (known.length === 0) return "–";
  const middle = (some: number[]) =>
    some.toSorted((a, b) => a - b)[Math.floor((some.length - 1) / 2)] ?? 0;
  const last = middle(known.slice(-FEW));
  if (known.length < 2 * FEW) return `${Math.round(last)}${unit}`;
  return `${Math.round(middle(known.slice(0, FEW)))} → ${Math.round(last)}${unit}`;
}

/** How each instrument and method has gone, first attempts to last. */
export function ByMethod({ attempts }: { attempts: Attempt[] }) {
  const groups = grouped(attempts);
  if (groups.length < 2) return null;
  return (
    <Groups>
      <caption>By instrument and method, first to last</caption>
      <thead>
        <tr>
          <th scope="col">Instrument and method</th>
          <th scope="col">Attempts</th>
          <th scope="col">Cents off</th>
          <th scope="col">Technique</th>
          <th scope="col">By ear</th>
        </tr>
      </thead>
      <tbody>
        {groups.map(({ key, words, attempts: of }) => (
          <tr key={key}>
            <th scope="row">{words}</th>
            <td>{of.length}</td>
            <td>{fromTo(of.map(SHOWN.cents.of), "")}</td>
            <td>{fromTo(of.map(SHOWN.technique.of), " %")}</td>
            <td>
              {of.filter(({ brief }) => brief?.aid === "ear").length} of {of.length}
            </td>
          </tr>
        ))}
      </tbody>
    </Groups>
  );
}
