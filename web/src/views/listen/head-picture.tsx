// The head of an instrument: strings from their pegs over the nut, one peg marked.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { geometry } from "../../picture/geometry";
import { ink } from "../../theme/theme";

const WIDE = 560;
const PEG = 42;
const NECK = 150;
const UNIT = 34;
const MARKED = 15;
const PLAIN = 12;

const Picture = styled.svg`
  max-width: 100%;
  height: 10.5rem;
  display: block;
  path {
    fill: none;
    stroke: ${ink.quiet};
    stroke-width: 2;
  }
  circle {
    fill: ${ink.sheet};
    stroke: ${ink.text};
    stroke-width: 2;
  }
  circle[data-marked] {
    fill: ${ink.amber};
    stroke-width: 3;
  }
  rect {
    fill: ${ink.text};
  }
`;

type Props = { picture: Schemas["MarkedPegPicture"] };

export function HeadPicture({ picture }: Props) {
  const high = Math.max(5, picture.strings.length) * UNIT;
  const drawn = geometry(
    picture.strings.map((one) => ({ ...one, peg: { side: one.side } })),
    {
      width: WIDE,
      height: high,
      head: WIDE - NECK,
      names: 0,
      margin: -900,
      peg: PEG,
      straight: false,
    },
  );
  const top = (drawn.rows[0]?.y ?? 0) - 10;
  const bottom = (drawn.rows.at(-1)?.y ?? high) + 10;
  const left = Math.min(...drawn.rows.map((row) => row.peg.x)) - MARKED - 4;
  return (
    <Picture
      viewBox={`${left} -6 ${WIDE - left} ${high + 12}`}
      role="img"
      aria-label={words(picture)}
    >
      {drawn.rows.map((row) => (
        <path
          key={row.number}
          d={
            row.inNeck
              ? `M${Math.min(row.peg.x, WIDE - 30)} ${row.y}H${WIDE}`
              : `M${row.peg.x} ${row.peg.y}L${drawn.nut} ${row.y}H${WIDE}`
          }
        />
      ))}
      <rect x={drawn.nut} y={top} width={5} height={bottom - top} />
      {drawn.rows.map((row) => (
        <circle
          key={row.number}
          data-marked={row.number === picture.marked || undefined}
          cx={row.inNeck ? Math.min(row.peg.x, WIDE - 30) : row.peg.x}
          cy={row.peg.y}
          r={row.number === picture.marked ? MARKED : PLAIN}
        />
      ))}
    </Picture>
  );
}

/** The same for who cannot see it: on which side the marked peg sits, counted from the nut. */
function words({ strings, marked }: Props["picture"]): string {
  const peg = strings.find((one) => one.number === marked);
  const side = strings.filter((one) => one.side === peg?.side);
  // the string at the edge has the peg nearest to the nut
  const fromNut = peg?.side === "treble" ? side : side.toReversed();
  const place = fromNut.findIndex((one) => one.number === marked) + 1;
  return `The marked peg is on the ${peg?.side} side, number ${place} from the nut.`;
}
