import styled from "styled-components";
import type { AttemptPage, ScorePage } from "../../api/client";
import { Float, height, Scale, SlantedName, slantedRoom } from "../../parts/float";
import { useMedia } from "../../parts/use-media";
import { ink, PHONE } from "../../theme/theme";
import { howFar } from "../../words/formats";

const Figure = styled.figure`
  background: ${ink.sheet};
  border-top: 1px solid ${ink.line};
  border-bottom: 1px solid ${ink.line};
  svg {
    width: 100%;
    height: auto;
    display: block;
  }
  text {
    fill: ${ink.text};
    font-size: 15px;
  }
  .name {
    font-weight: 700;
    font-size: 18px;
  }
  .scale {
    fill: ${ink.quiet};
    font-size: 13px;
  }
`;

const HEIGHT = 210;
const LINE = 88;
const EDGE = 40;
const REACH = 56;

function y(cents: number): number {
  return LINE - REACH * height(cents, EDGE);
}

/** Where every string of the plan came to rest: below the line low, above it high, on it still. */
export function Resting({ page, outcome }: { page: AttemptPage; outcome: ScorePage }) {
  const narrow = useMedia(PHONE);
  const width = narrow ? 400 : 1000;
  const left = narrow ? 44 : 110;
  const step = (width - left - 10) / page.strings.length;
  const many = narrow || page.strings.length > 8;
  const tall = many ? HEIGHT + slantedRoom(page.strings) : HEIGHT;
  const rows = page.strings.map((string, index) => ({
    string,
    x: left + step * (index + 0.5),
    found: outcome.strings.find((one) => one.number === string.number),
  }));
  return (
    <Figure>
      <svg viewBox={`0 0 ${width} ${tall}`} role="img" aria-label="Where the strings came to rest">
        <rect x="0" y={LINE} width={width} height={tall - LINE} fill={ink.depth} opacity="0.55" />
        <Scale width={width} line={LINE} y={y} marks={[-20, -5, 5, 20]} />
        {rows.map(({ string, x, found }) => {
          const cents = found?.pitch_cents ?? null;
          return (
            <g key={string.number}>
              {cents === null ? null : (
                <>
                  <line x1={x} x2={x} y1={LINE} y2={y(cents)} stroke={ink.water} strokeWidth="3" />
                  <Float x={x} y={y(cents)} cents={cents} />
                </>
              )}
              {many ? (
                <SlantedName className="scale" x={x + 5} y={HEIGHT - 16} words={string.label} />
              ) : (
                <text className="name" x={x} y={HEIGHT - 32} textAnchor="middle">
                  {string.label}
                </text>
              )}
              <text
                className={many ? "scale" : ""}
                x={x}
                y={many ? HEIGHT - 32 : HEIGHT - 12}
                textAnchor="middle"
              >
                {restWords(found, many)}
              </text>
            </g>
          );
        })}
      </svg>
    </Figure>
  );
}

/** Where a string is, in words; nothing for one that this plan did not tune. */
function restWords(found: ScorePage["strings"][number] | undefined, many: boolean): string {
  if (!found) return "";
  const words = howFar(found.pitch_cents, many ? 0 : undefined);
  return many ? words.replace(/ cents?/, "") : words;
}
