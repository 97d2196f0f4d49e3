// How strings stand against the waterline of their notes: above is high, below is low.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { howFar } from "../../words/formats";
import { ink } from "../../theme/theme";
import { named } from "../../words/notes";

const EACH = 120;
const HIGH = 205;
const LINE = 70;
const MOST = 52;
const WIDE_CENTS = 60;

const Picture = styled.svg`
  width: 100%;
  max-width: 56rem;
  height: auto;
  display: block;
  line {
    stroke: ${ink.edge};
    stroke-width: 2;
    stroke-dasharray: 2 7;
  }
  rect {
    fill: ${ink.water};
  }
  text {
    fill: ${ink.text};
    text-anchor: middle;
    font-size: 24px;
    font-weight: 600;
  }
  text.far {
    font-size: 22px;
    font-weight: 400;
    fill: ${ink.quiet};
  }
`;

type Props = { strings: Schemas["ShownString"][] };

/** So far off the line: seen at 1 cent, and not off the picture at a semitone and more. */
function lift(cents: number): number {
  const size = Math.min(1, Math.abs(cents) / WIDE_CENTS);
  return Math.abs(cents) < 1 ? 0 : Math.sign(cents) * (6 + (MOST - 6) * size);
}

/** For a class what is within a cent is in tune. */
const said = (cents: number) => (Math.abs(cents) < 1 ? "in tune" : howFar(cents, 0));

/** The same without the unit, where there is little room. */
function short(cents: number): string {
  if (Math.abs(cents) < 1) return "in tune";
  return `${Math.abs(cents).toFixed(0)} ${cents < 0 ? "low" : "high"}`;
}

export function Standing({ strings }: Props) {
  const wide = strings.length * EACH;
  const order = strings.toReversed(); // from the lowest, as they are heard
  const words = order.map((one) => `${named(one.label)} ${said(one.cents)}`).join(", ");
  return (
    <Picture viewBox={`0 0 ${wide} ${HIGH}`} role="img" aria-label={words}>
      <line x1="0" x2={wide} y1={LINE} y2={LINE} />
      {order.map((one, at) => (
        <g key={one.label}>
          <rect
            x={at * EACH + 22}
            width={EACH - 44}
            y={LINE - 9 - lift(one.cents)}
            height="18"
            rx="9"
          />
          <text x={(at + 0.5) * EACH} y={HIGH - 30}>
            {named(one.label)}
          </text>
          <text className="far" x={(at + 0.5) * EACH} y={HIGH - 4}>
            {short(one.cents)}
          </text>
        </g>
      ))}
    </Picture>
  );
}
