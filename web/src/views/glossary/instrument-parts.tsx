// The parts of an instrument with their names, drawn from what the catalogue knows of it.

import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import styled from "styled-components";
import { api, type Instrument, said } from "../../api/client";
import { Pick } from "../../parts/pick";
import { ink } from "../../theme/theme";

const Section = styled.section`
  display: grid;
  gap: 0.75rem;
  svg {
    width: 100%;
    max-width: 60rem;
    height: auto;
    font-size: 17px;
  }
  & > div {
    max-width: 20rem;
  }
`;
const TOP = 110;
const BOTTOM = 210;
const NUT = 190;
const BRIDGE = 740;
const END = 850;

/** The parts of the instrument that is chosen, each named where it is. */
export function InstrumentParts() {
  const [id, setId] = useState(localStorage.getItem("meldrin:instrument") ?? "viola");
  const instruments = useQuery({
    queryKey: ["instruments"],
    queryFn: () => said(api.GET("/api/instruments")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const made = instruments.data?.find((one) => one.id === id) ?? instruments.data?.[0];
  if (!made) return null;
  return (
    <Section aria-labelledby="parts">
      <h2 id="parts">The parts of an instrument</h2>
      <div>
        <Pick
          label="Instrument"
          value={made.id}
          options={(instruments.data ?? []).map((one) => ({ id: one.id, words: one.name }))}
          onPick={setId}
        />
      </div>
      <Parts made={made} />
    </Section>
  );
}

type Named = { words: string; x: number; y: number; at: [number, number] };

/** What has a name, and where it is. */
function namesOf(made: Instrument): Named[] {
  const playing = made.strings.filter((one) => one.role === "playing");
  const peg = playing[0]?.peg.includes("peg") ? "pegs" : "tuning machines";
  const tuned = playing.filter((one) => one.fine_tuner);
  const fine = tuned[0]?.fine_tuner;
  const found: Named[] = [
    { words: peg, x: 95, y: 40, at: [95, TOP - 22] },
    { words: "nut", x: NUT, y: 40, at: [NUT, TOP - 20] },
    { words: "fingerboard", x: 330, y: 40, at: [330, TOP - 12] },
    { words: "bridge", x: BRIDGE, y: 40, at: [BRIDGE, TOP - 24] },
    { words: "where the strings end", x: 800, y: 290, at: [END, BOTTOM + 6] },
    {
      words: made.strings.length > playing.length ? "playing strings" : "strings",
      x: 560,
      y: 290,
      at: [560, BOTTOM],
    },
  ];
  if (made.frets > 0) found.push({ words: "frets", x: 400, y: 290, at: [fretAt(5), BOTTOM + 12] });
  if (fine === "bead") found.push({ words: "beads", x: 840, y: 40, at: [795, TOP - 2] });
  else if (fine)
    found.push({
      words: tuned.length > 1 ? "fine tuners" : "fine tuner",
      x: 850,
      y: 40,
      at: [825, TOP - 2],
    });
  return found;
}

function fretAt(fret: number): number {
  return NUT + (BRIDGE - NUT) * (1 - 2 ** (-fret / 12));
}

function Parts({ made }: { made: Instrument }) {
  const playing = made.strings.filter((one) => one.role === "playing");
  const step = (BOTTOM - TOP) / Math.max(1, playing.length - 1);
  const named = namesOf(made);
  const bead = playing.some((one) => one.fine_tuner === "bead");
  return (
    <svg
      viewBox="0 0 920 310"
      role="img"
      aria-label={`The parts of the ${made.name}: ${named.map((one) => one.words).join(", ")}.`}
    >
      <rect
        x={480}
        y={70}
        width={410}
        height={180}
        rx={60}
        fill={ink.wood}
        stroke={ink.line}
        strokeWidth={1.5}
      />
      <rect x={NUT} y={TOP - 12} width={420} height={BOTTOM - TOP + 24} fill={ink.board} />
      {Array.from({ length: Math.min(made.frets, 15) }, (_, n) => n + 1)
        .map(fretAt)
        .filter((x) => x < NUT + 420)
        .map((x) => (
          <path key={x} d={`M${x} ${TOP - 12}V${BOTTOM + 12}`} stroke={ink.edge} />
        ))}
      {playing.map((one, place) => {
        const y = TOP + place * step;
        const up = place < playing.length / 2;
        const knob = 60 + (place % Math.ceil(playing.length / 2)) * (70 / playing.length) * 2;
        return (
          <g key={one.number}>
            <path d={`M${knob} ${y}H${END}`} stroke={ink.text} strokeWidth={1.2 + place * 0.25} />
            <rect
              x={knob - 7}
              y={up ? TOP - 30 : BOTTOM + 12}
              width={14}
              height={18}
              rx={5}
              fill={ink.sheet}
              stroke={ink.text}
              strokeWidth={1.5}
            />
            {one.fine_tuner ? (
              <circle
                cx={bead ? 795 : 825}
                cy={y}
                r={6}
                fill={ink.sheet}
                stroke={ink.text}
                strokeWidth={1.5}
              />
            ) : null}
          </g>
        );
      })}
      {[NUT, BRIDGE].map((x) => (
        <rect key={x} x={x - 4} y={TOP - 16} width={8} height={BOTTOM - TOP + 32} fill={ink.text} />
      ))}
      <rect x={END} y={TOP - 12} width={10} height={BOTTOM - TOP + 24} rx={4} fill={ink.edge} />
      {named.map((one) => (
        <g key={one.words}>
          <path
            d={`M${one.x} ${one.y < TOP ? one.y + 8 : one.y - 18}L${one.at[0]} ${one.at[1]}`}
            stroke={ink.quiet}
          />
          <text x={one.x} y={one.y} textAnchor="middle" fill={ink.text}>
            {one.words}
          </text>
        </g>
      ))}
    </svg>
  );
}
