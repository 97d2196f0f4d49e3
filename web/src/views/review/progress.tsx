import styled from "styled-components";
import type { Attempt } from "../../api/client";
import { ink } from "../../theme/theme";
import { dayAndTime } from "../../words/formats";

const Figure = styled.figure`
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
    color: ${ink.quiet};
    margin-bottom: 0.5rem;
  }
`;

const WIDTH = 960;
const HEIGHT = 190;
const LEFT = 34;
const BOTTOM = 24;

/** Points over the attempts in their order; the table below it says the same. */
export function Progress({ attempts }: { attempts: Attempt[] }) {
  const order = attempts.toReversed();
  const x = (index: number) => LEFT + 14 + (index * (WIDTH - LEFT - 28)) / (order.length - 1);
  const y = (points: number) => HEIGHT - BOTTOM - ((HEIGHT - BOTTOM - 12) * points) / 100;
  const path = order.map((attempt, index) => `${x(index)},${y(attempt.points ?? 0)}`).join(" ");
  return (
    <Figure>
      <figcaption>Points, from the first attempt to the newest</figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Points over time">
        {[0, 50, 100].map((points) => (
          <g key={points}>
            <line x1={LEFT} x2={WIDTH} y1={y(points)} y2={y(points)} stroke={ink.line} />
            <text x={LEFT - 8} y={y(points) + 4} textAnchor="end">
              {points}
            </text>
          </g>
        ))}
        <polygon
          points={`${x(0)},${y(0)} ${path} ${x(order.length - 1)},${y(0)}`}
          fill={ink.depth}
        />
        <polyline points={path} fill="none" stroke={ink.water} strokeWidth="2.5" />
        {order.map((attempt, index) => (
          <circle
            key={attempt.id}
            cx={x(index)}
            cy={y(attempt.points ?? 0)}
            r="4.5"
            fill={ink.text}
          >
            <title>
              {`${attempt.name}, ${dayAndTime(attempt.created_at)}: ${Math.round(attempt.points ?? 0)}`}
            </title>
          </circle>
        ))}
      </svg>
    </Figure>
  );
}
