// The instruments, as small drawings: the last one first, and all the others behind a word.

import { useState } from "react";
import { type Key, ToggleButton, ToggleButtonGroup } from "react-aria-components";
import styled from "styled-components";
import type { Instrument } from "../../api/client";
import { Pick } from "../../parts/pick";
import { ink, phone, tablet } from "../../theme/theme";

const USUAL = ["viola", "guitar", "double-bass", "mandolin", "ukulele", "cello"];
const SHOWN = 5;

const Row = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) 13rem;
  gap: 1.5rem;
  align-items: center;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
    gap: 0.75rem;
  }
`;
const Group = styled(ToggleButtonGroup)`
  display: grid;
  grid-template-columns: repeat(${SHOWN}, minmax(0, 1fr));
  gap: 1rem;
  ${phone} {
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: 0.6rem;
  }
`;
const Card = styled(ToggleButton)`
  display: grid;
  gap: 0.3rem;
  justify-items: center;
  padding: 0;
  border: 0;
  background: transparent;
  color: inherit;
  font: inherit;
  font-weight: 600;
  cursor: pointer;
  touch-action: manipulation;
  svg {
    width: 100%;
    aspect-ratio: 8 / 6;
    border-radius: 10px;
    background: ${ink.wood};
    border: 1.5px solid ${ink.line};
  }
  &[data-hovered] svg {
    border-color: ${ink.text};
  }
  &[data-selected] svg {
    border: 4px solid ${ink.text};
  }
  &[data-selected] {
    font-weight: 750;
  }
`;

type Props = { all: readonly Instrument[]; value: string; onPick: (id: string) => void };

export function Instruments({ all, value, onPick }: Props) {
  const [shown, setShown] = useState(() => firstOf([value, ...USUAL], all));
  const others = all.filter((one) => !shown.includes(one.id));
  return (
    <Row>
      <Group
        aria-label="Instrument"
        selectionMode="single"
        disallowEmptySelection
        selectedKeys={[value]}
        onSelectionChange={(keys: Set<Key>) => {
          for (const key of keys) onPick(String(key));
        }}
      >
        {shown.map((id) => {
          const made = all.find((one) => one.id === id);
          return made ? (
            <Card key={id} id={id} preventFocusOnPress>
              <Drawing made={made} />
              {made.name}
            </Card>
          ) : null;
        })}
      </Group>
      <Pick
        label={`${others.length} others`}
        value={null}
        options={others.map((one) => ({ id: one.id, words: one.name }))}
        search="Find an instrument"
        onPick={(id) => {
          setShown((before) => [id, ...before.slice(0, SHOWN - 1)]);
          onPick(id);
        }}
      />
    </Row>
  );
}

function firstOf(wanted: readonly string[], all: readonly Instrument[]): string[] {
  const there = wanted.filter((id) => all.some((one) => one.id === id));
  return [...new Set(there)].slice(0, SHOWN);
}

const NUT = 22;
const LONGEST = 122;
const LONGEST_MM = 1100;
const PAIR = 3.5;

/** Strings over a nut and a bridge, as long as they are, in their courses; frets where it has any. */
function Drawing({ made }: { made: Instrument }) {
  const playing = made.strings.filter((one) => one.role === "playing");
  const courses = [...new Set(playing.map((one) => one.course))];
  const scale_mm = Math.max(...playing.map((one) => one.scale_mm));
  const length = LONGEST * (0.55 + 0.45 * Math.min(1, scale_mm / LONGEST_MM));
  const bridge = NUT + length;
  const gap = Math.min(18, 88 / Math.max(1, courses.length - 1));
  const top = 60 - ((courses.length - 1) * gap) / 2;
  const bottom = 60 + ((courses.length - 1) * gap) / 2;
  const frets = Array.from({ length: Math.min(12, made.frets) }, (_, n) => n + 1);
  return (
    <svg viewBox="0 0 160 120" aria-hidden="true">
      <rect x={NUT} y={top - 8} width={length * 0.66} height={bottom - top + 16} fill={ink.board} />
      {frets.map((fret) => {
        const x = NUT + length * (1 - 2 ** (-fret / 12));
        return <path key={fret} d={`M${x} ${top - 8}V${bottom + 8}`} stroke={ink.edge} />;
      })}
      {playing.map((one) => {
        const place = courses.indexOf(one.course);
        const pair = playing.filter((other) => other.course === one.course);
        const aside = (pair.indexOf(one) - (pair.length - 1) / 2) * PAIR;
        const y = top + place * gap + aside;
        const wide = 1 + (2.2 * place) / Math.max(1, courses.length - 1);
        return (
          <path
            key={one.number}
            d={`M${NUT - 8} ${y}H${bridge + 8}`}
            stroke={ink.text}
            strokeWidth={pair.length > 1 ? Math.min(1.6, wide) : wide}
          />
        );
      })}
      {[NUT, bridge].map((x) => (
        <path key={x} d={`M${x} ${top - 12}V${bottom + 12}`} stroke={ink.text} strokeWidth="5" />
      ))}
    </svg>
  );
}
