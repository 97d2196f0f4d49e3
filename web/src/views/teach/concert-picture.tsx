// Every open string of a group on one waterline: above is high, below is low; what is not known is
// open. Each pupil has a stretch of the line.

import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { ink } from "../../theme/theme";
import { named } from "../../words/notes";
import { Scroll } from "./layout";

type Player = Schemas["EnsemblePage"]["players"][number];

const EACH = 34;
const BETWEEN = 26;
const LEFT = 78;
const HIGH = 230;
const LINE = 92;
const MOST = 70;
const WIDE_CENTS = 20;
const NEAR_CENTS = 3;

const Picture = styled.svg`
  display: block;
  height: ${HIGH}px;
  background: ${ink.sheet};
  .line {
    stroke: ${ink.text};
    stroke-width: 1.5;
    stroke-dasharray: 2 6;
  }
  .near {
    stroke: ${ink.line};
  }
  text {
    fill: ${ink.text};
    font-size: 14px;
    text-anchor: middle;
  }
  .far {
    fill: ${ink.quiet};
    text-anchor: start;
    font-size: 13px;
  }
  .name {
    font-weight: 650;
    font-size: 15px;
  }
  circle {
    fill: ${ink.water};
  }
  circle[data-known="false"] {
    fill: none;
    stroke: ${ink.edge};
    stroke-width: 1.5;
  }
`;

export function ConcertPicture({ players }: { players: Player[] }) {
  const places = players.reduce<{ player: Player; x: number; wide: number }[]>((found, player) => {
    const before = found.at(-1);
    const x = before ? before.x + before.wide + BETWEEN : LEFT;
    return [...found, { player, x, wide: Math.max(player.strings.length * EACH, 70) }];
  }, []);
  const last = places.at(-1);
  const wide = last ? last.x + last.wide + BETWEEN : LEFT;
  return (
    <Scroll tabIndex={0} role="group" aria-label="Every string against the agreed line">
      <Picture viewBox={`0 0 ${wide} ${HIGH}`} width={wide} aria-hidden="true">
        {[NEAR_CENTS, -NEAR_CENTS].map((cents) => (
          <g key={cents}>
            <line className="near" x1="0" x2={wide} y1={LINE - up(cents)} y2={LINE - up(cents)} />
            <text className="far" x="6" y={LINE - up(cents) + (cents > 0 ? -5 : 15)}>
              {NEAR_CENTS} cents
            </text>
          </g>
        ))}
        <line className="line" x1="0" x2={wide} y1={LINE} y2={LINE} />
        {places.map(({ player, x, wide: own }) => (
          <g key={player.id}>
            {player.strings.toReversed().map((one, at) => {
              const each = x + (own / player.strings.length) * (at + 0.5);
              return (
                <g key={one.string}>
                  <circle
                    cx={each}
                    cy={LINE - up(one.off_cents ?? 0)}
                    r="8"
                    data-known={one.off_cents !== null}
                  />
                  <text x={each} y={LINE + MOST + 30}>
                    {named(one.label)}
                  </text>
                </g>
              );
            })}
            <text className="name" x={x + own / 2} y={HIGH - 10}>
              {player.name}
            </text>
          </g>
        ))}
      </Picture>
    </Scroll>
  );
}

/** So far off the line a string stands: near ones are told apart, far ones stay in the picture. */
function up(cents: number): number {
  const share = Math.asinh(cents / NEAR_CENTS) / Math.asinh(WIDE_CENTS / NEAR_CENTS);
  return MOST * Math.max(-1, Math.min(1, share));
}
