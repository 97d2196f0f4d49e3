// What a trial plays, as time runs to the right: covered until it is judged, then as it was.

import styled from "styled-components";
import type { Schemas } from "../api/client";
import { ink, phone } from "../theme/theme";
import { capital } from "../words/formats";

const WIDE = 800;
const HIGH = 168;
const LINE = 74;
const THICK = 22;
const MOST_UP = 56;
const WAVE = 20;
/** Drawn for each beat a second. */
const WAVES = 2.5;

const Picture = styled.svg`
  width: 100%;
  max-width: 52rem;
  height: auto;
  display: block;
  font: inherit;
  .line {
    stroke: ${ink.edge};
    stroke-width: 1.5;
    stroke-dasharray: 2 6;
  }
  .sounds {
    fill: ${ink.water};
  }
  .covered {
    fill: ${ink.depth};
  }
  .wave {
    fill: none;
    stroke: ${ink.water};
    stroke-width: 3;
  }
  .now {
    stroke: ${ink.text};
    stroke-width: 2.5;
  }
  text {
    fill: ${ink.text};
    font-size: 17px;
    font-weight: 600;
    text-anchor: middle;
  }
  ${phone} {
    text {
      font-size: 26px;
    }
  }
`;

type Drawn = Schemas["SittingPage"]["drawn"];

type Props = {
  /** How a drill has its sound drawn. */
  drawn: Drawn;
  parts: Schemas["DrillPart"][];
  /** Of what is measured, once it is known; null before, or where nothing is. */
  difference: number | null;
  /** Whether the truth is known. */
  isTold: boolean;
  /** How far what is heard has come, in seconds; null while nothing plays. */
  at_s: number | null;
};

export function TruthPicture({ drawn, parts, difference, isTold, at_s }: Props) {
  const whole = parts.at(-1)?.end_s ?? 1;
  const x = (seconds: number) => 20 + (seconds / whole) * (WIDE - 40);
  return (
    <Picture viewBox={`0 0 ${WIDE} ${HIGH}`} aria-hidden="true">
      <line className="line" x1="0" x2={WIDE} y1={LINE} y2={LINE} />
      {parts.map((part, at) => {
        const [left, right] = [x(part.begin_s), x(part.end_s)];
        const isLast = at === parts.length - 1;
        return (
          <g key={part.begin_s}>
            <Part
              part={part}
              left={left}
              right={right}
              drawn={drawn}
              isLast={isLast}
              isFirst={at === 0}
              difference={difference}
              isTold={isTold}
            />
            <text x={(left + right) / 2} y={HIGH - 6}>
              {capital(part.name)}
            </text>
          </g>
        );
      })}
      {at_s === null ? null : (
        <line className="now" x1={x(at_s)} x2={x(at_s)} y1="2" y2={HIGH - 22} />
      )}
    </Picture>
  );
}

type PartProps = {
  part: Schemas["DrillPart"];
  left: number;
  right: number;
  drawn: Drawn;
  isFirst: boolean;
  isLast: boolean;
  difference: number | null;
  isTold: boolean;
};

function Part({ part, left, right, drawn, isFirst, isLast, difference, isTold }: PartProps) {
  const wide = right - left;
  const beats = drawn === "beats" || drawn === "pairs";
  if (difference === null) {
    if (isTold && part.beats_hz) {
      const seconds = drawn === "waves" ? part.end_s - part.begin_s : WAVES;
      const times = part.beats_hz * seconds;
      return <path className="wave" d={wave(left, wide, times)} />;
    }
    if (isTold)
      return (
        <rect
          className="sounds"
          x={left}
          width={wide}
          y={LINE - 11 - raised(part.cents ?? 0)}
          height={THICK}
          rx="11"
        />
      );
    if (isFirst && drawn === "notes")
      return <rect className="sounds" x={left} width={wide} y={LINE - 11} height={THICK} rx="11" />;
    return <rect className="covered" x={left} width={wide} y="10" height="128" rx="10" />;
  }
  if (beats) {
    const ratio = 1 + Math.abs(difference) / 100;
    const second = isLast === difference > 0 ? ratio : 1;
    const times = drawn === "beats" ? Math.min(60, difference * 4) : 6 * second;
    return <path className="wave" d={wave(left, wide, times)} />;
  }
  const lifts = part.name === "both" ? [0, raised(difference)] : [isFirst ? 0 : raised(difference)];
  return lifts.map((lift, at) => (
    <rect
      key={at === 0 ? "one" : "other"}
      className="sounds"
      x={left}
      width={wide}
      y={LINE - 11 - lift}
      height={THICK}
      rx="11"
    />
  ));
}

/** So far off the line a difference in cents stands: seen at 1, and not off the picture at 200. */
function raised(cents: number): number {
  const size = Math.min(MOST_UP, 13 + 8 * Math.log2(1 + Math.abs(cents)));
  return cents === 0 ? 0 : Math.sign(cents) * size;
}

function wave(left: number, wide: number, times: number): string {
  const points = Array.from({ length: 241 }, (_, n) => {
    const share = n / 240;
    const y = LINE - WAVE * Math.cos(2 * Math.PI * times * share);
    return `${(left + share * wide).toFixed(1)},${(times < 0.01 ? LINE : y).toFixed(1)}`;
  });
  return `M${points.join("L")}`;
}
