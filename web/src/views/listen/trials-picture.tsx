import styled from "styled-components";
import type { Schemas, SittingPage } from "../../api/client";
import { ink } from "../../theme/theme";

const WIDE = 960;
const LEFT = 24;
const LINE = 70; // where the water stands still
const REACH = 52;
const HIGH = 2 * LINE;
const EACH = 15;

const Figure = styled.figure`
  background: ${ink.sheet};
  border-top: 1.5px solid ${ink.line};
  border-bottom: 1.5px solid ${ink.line};
  svg {
    display: block;
    width: 100%;
    height: auto;
    font-size: 15px;
  }
  figcaption {
    padding: 0.4rem 0;
    color: ${ink.quiet};
    font-size: 0.9375rem;
  }
`;

type Props = { page: SittingPage; result: Schemas["SittingResult"] };

/** The trials in their order: what was heard rides on the water, what was missed hangs below it; the
 * finer the difference, the nearer to the line. */
export function TrialsPicture({ page, result }: Props) {
  const { trials } = result;
  const step = (WIDE - 2 * LEFT) / Math.max(1, trials.length);
  const sizes = trials.map((one) => Math.abs(one.difference)).filter((one) => one > 0);
  const [least, most] = [Math.min(...sizes), Math.max(...sizes)];
  const share = (size: number) => {
    if (!page.measured || size === 0 || most <= least) return 0.5;
    return 0.25 + (0.75 * Math.log(size / least)) / Math.log(most / least);
  };
  const right = trials.filter((one) => one.is_right).length;
  return (
    <Figure>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={`${right} of ${trials.length} right, in their order.`}
      >
        <rect x={0} y={LINE} width={WIDE} height={HIGH - LINE} fill={ink.depth} opacity={0.6} />
        <path d={`M0 ${LINE}H${WIDE}`} stroke={ink.text} strokeWidth={1.5} strokeDasharray="2 6" />
        {trials.map((one, place) => {
          const x = LEFT + (place + 0.5) * step;
          const far = REACH * share(Math.abs(one.difference));
          const y = one.is_right ? LINE - far : LINE + far;
          const sweep = one.is_right ? 1 : 0;
          return (
            <g key={place}>
              <path d={`M${x} ${LINE}V${y}`} stroke={ink.water} strokeWidth={3} />
              <path
                d={`M${x - EACH} ${y}A${EACH} ${EACH} 0 0 ${sweep} ${x + EACH} ${y}Z`}
                fill={one.is_right ? ink.text : ink.sheet}
                stroke={ink.text}
                strokeWidth={2}
              />
            </g>
          );
        })}
      </svg>
      <figcaption>
        {page.measured
          ? "Above the line: heard. Below: missed. The nearer to the line, the finer it was."
          : "Above the line: right. Below: missed."}
      </figcaption>
    </Figure>
  );
}
