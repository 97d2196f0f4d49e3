import { type PointerEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { Button as AriaButton } from "react-aria-components";
import styled, { css, keyframes } from "styled-components";
import {
  fingerShare,
  fretAt,
  fretShare,
  type DrawnPeg,
  type Geometry,
  geometry,
  partsOf,
  roomOf,
  type Row,
  type Sizes,
  swing,
} from "../picture/geometry";
import type { Schemas } from "../api/client";
import { ink } from "../theme/theme";
import { capital } from "../words/formats";
import { KeyHint } from "./key-hint";

export type PlayedString = {
  number: number;
  course: number;
  label: string;
  /** In a table of one kind the label says its kind no more. */
  short: string;
  key: string;
  length: number;
  thick_mm: number;
  wound: boolean;
  hasFine: boolean;
  /** How much room it has in the picture, against a string that is played. */
  room?: number;
  peg: DrawnPeg & { words: string };
};

/** What is drawn of a string of the API. */
export function playedString(one: Schemas["BenchString"], key: string): PlayedString {
  return {
    number: one.number,
    course: one.course,
    label: one.label,
    short: one.label.replace("sympathetic ", ""),
    key,
    length: one.length,
    thick_mm: one.thick_mm,
    wound: one.wound,
    hasFine: one.fine_turns !== null,
    peg: one.peg,
  };
}

export type StringNow = {
  fret: number;
  touched: boolean;
  ringing: boolean;
  along: boolean;
  knob_deg: number;
  fine: number;
  stuck: boolean;
  slack: boolean;
  broken: boolean;
  off: boolean;
};

export type InstrumentProps = {
  strings: readonly PlayedString[];
  /** 0 over a bare fingerboard; null where there is none under these strings. */
  frets: number | null;
  now: (number: number) => StringNow | null;
  /** How often each string has been played: it then swings once more. */
  strikes: Readonly<Record<number, number>>;
  /** Whose peg is in the hand, and whether that is its fine tuner. */
  selected: number | null;
  fine?: boolean;
  /** What the string sounds with. */
  partner?: number | null;
  /** On a phone these have room, and the others are thin lines; all alike where it is left out. */
  inPlay?: readonly number[];
  /** A finger that moves over this string only touches it. */
  touches?: (number: number) => boolean;
  words?: (number: number) => string;
  isDisabled?: boolean;
  /** How tall something is that stands above it, in pixels: on a phone it takes that much less. */
  above?: number;
  /** Absent where it is only looked at. */
  onPlay?: ((number: number, pressedAt: number) => void) | undefined;
  onPeg?: (number: number) => void;
  onFine?: (number: number) => void;
  onFinger?: (number: number, fret: number) => void;
  children?: ReactNode;
};

const MOST_FRET = 24;
const DRAG_FROM = 8;
const TALL = 224;
const TALL_OF_MANY = 190;
const TALLEST = 300;
/** So few strings have room, and need no mark which is meant. */
const FEW = 2;
const NARROW = 620;
/** The room of a string that is not in play, on a phone. */
const THIN = 0.5;
/** What else stands on a phone. */
const NARROW_REST = 575;
const NUMBERED = [3, 5, 7, 9, 12, 15];
const BARE_MARKS: readonly [number, string][] = [
  [1 / 4, "¼"],
  [1 / 3, "⅓"],
  [1 / 2, "½"],
];

const fades = keyframes`
  from { transform: scaleY(1); opacity: 0.75; }
  to { transform: scaleY(0.12); opacity: 0.35; }
`;
const Box = styled.div`
  position: relative;
  width: 100%;
  max-height: ${TALLEST}px;
  overflow: hidden auto;
`;
const Field = styled.div`
  position: relative;
  & > svg {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    pointer-events: none;
  }
`;
const Swing = styled.path<{ $faint: boolean }>`
  fill: ${ink.water};
  opacity: 0.35;
  transform-box: fill-box;
  transform-origin: center;
  ${({ $faint }) =>
    $faint
      ? css`
          opacity: 0.25;
        `
      : css`
          animation: ${fades} 6s cubic-bezier(0.3, 0.4, 0.6, 1) forwards;
        `}
`;
const Knob = styled.g`
  transform-box: fill-box;
  transform-origin: center;
  transition: transform 0.12s linear;
`;
const Press = styled(AriaButton)`
  position: absolute;
  padding: 0;
  border: 0;
  border-radius: 6px;
  background: transparent;
  color: inherit;
  font: inherit;
  cursor: pointer;
  touch-action: pan-y;
  user-select: none;
  &[data-hovered] {
    background: color-mix(in srgb, ${ink.water} 12%, transparent);
  }
  &[data-focus-visible] {
    outline-offset: -2px;
  }
  &[data-disabled] {
    cursor: default;
  }
`;
const Name = styled.span`
  position: absolute;
  display: flex;
  align-items: center;
  gap: 0.4rem;
  padding: 0 0.3rem;
  transform: translateY(-50%);
  background: var(--under);
  font-weight: 700;
  font-size: 1.0625rem;
  line-height: 1.15;
  white-space: nowrap;
  pointer-events: none;
  &[data-picked] {
    background: color-mix(in srgb, ${ink.water} 20%, var(--under));
  }
  &[data-long] {
    font-size: 0.875rem;
  }
  kbd {
    font-size: 0.75rem;
  }
`;
const Word = styled.span`
  position: absolute;
  display: flex;
  align-items: center;
  gap: 0.1rem;
  transform: translateY(-50%);
  font-size: 0.9375rem;
  color: ${ink.quiet};
  white-space: nowrap;
  &[data-narrow] {
    font-size: 0.8125rem;
  }
  &[data-danger] {
    color: ${ink.amber};
    font-weight: 650;
  }
  button {
    position: static;
    min-width: 30px;
    min-height: 30px;
    color: ${ink.text};
    font-weight: 700;
  }
`;
const Below = styled.p`
  position: absolute;
  left: 0.25rem;
  bottom: 0;
  font-size: 0.8125rem;
  color: ${ink.quiet};
`;

/** The width of an element, as it changes. */
function useWidth(): [React.RefObject<HTMLDivElement | null>, number] {
  const element = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const box = element.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(box.clientWidth));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  return [element, width];
}

function sizesFor(width: number, { strings, words, above = 0 }: InstrumentProps): Sizes {
  const narrow = width < NARROW;
  const letters = parseFloat(getComputedStyle(document.documentElement).fontSize) / 16;
  const peg = 42;
  const side = (which: string) =>
    strings.filter((one) => one.peg.side === which && one.length > 0.94).length;
  const [treble, bass] = [side("treble"), side("bass")];
  const straight = narrow || treble === 0 || bass === 0;
  const most = Math.max(treble, bass, 1);
  const head = straight ? peg + (most - 1) * (narrow ? 14 : 20) : most * peg + 8;
  const courses = strings.filter((one, at) => one.course !== strings[at - 1]?.course).length;
  const whole = roomOf(strings);
  const coarse = matchMedia("(pointer: coarse)").matches && !narrow;
  const tall = narrow
    ? Math.max(150, Math.min(264, innerHeight - NARROW_REST) - above)
    : whole > 6.9
      ? TALL_OF_MANY
      : TALL;
  const unit = Math.max(
    coarse ? 34 : 26 * letters,
    Math.min(courses <= FEW ? 64 : coarse || narrow ? 44 : 40, tall / whole),
  );
  const keys = strings.some((one) => one.key) ? 74 : 34;
  const longest = Math.max(...strings.map((one) => one.short.length));
  return {
    width,
    height: whole * unit,
    head,
    names: letters * (narrow ? (longest > 6 ? 76 : 58) : Math.min(190, keys + longest * 8)),
    margin: words
      ? narrow
        ? 66 * Math.min(letters, 1.4)
        : 132 * letters
      : strings.some((one) => one.hasFine)
        ? 68
        : 24,
    peg,
    straight,
  };
}

/** The instrument as the player sees it, and played by: a string sounds, a peg is taken, a finger
 * slides along. */
export function InstrumentPicture(given: InstrumentProps) {
  const [box, width] = useWidth();
  const { selected, inPlay } = given;
  const thin = inPlay && width < NARROW && given.strings.length > FEW;
  const strings = thin
    ? given.strings.map((one) => ({ ...one, room: inPlay.includes(one.number) ? 1 : THIN }))
    : given.strings;
  const props = { ...given, strings };
  const sizes = sizesFor(Math.max(width, 300), props);
  const drawn = geometry(strings, sizes);
  const chosen = strings.find((one) => one.number === selected);
  const narrow = width < NARROW;
  return (
    <Box ref={box} role="group" aria-label="The instrument">
      <Field style={{ height: `calc(${sizes.height}px + 1.25rem)` }}>
        {width === 0 ? null : (
          <>
            <Drawing {...props} drawn={drawn} sizes={sizes} />
            {drawn.rows.map((row) => (
              <Controls
                key={row.number}
                {...props}
                row={row}
                drawn={drawn}
                sizes={sizes}
                narrow={narrow}
              />
            ))}
            {chosen && props.onPeg ? (
              <Below>
                {capital(chosen.peg.tightens)} tightens{narrow ? "" : ` ${chosen.label}`}
              </Below>
            ) : null}
            {props.children}
          </>
        )}
      </Field>
    </Box>
  );
}

type Drawn = InstrumentProps & { drawn: Geometry; sizes: Sizes };

function Drawing({ strings, frets, now, strikes, selected, partner, fine, drawn, sizes }: Drawn) {
  const { nut, bridge, rows } = drawn;
  const along = (share: number) => nut + share * (bridge - nut);
  const top = (rows[0]?.y ?? 0) - 12;
  const bottom = (rows.at(-1)?.y ?? 0) + 12;
  const end = frets ? along(fretShare(frets)) : frets === null ? nut : along(0.68);
  // On a small picture the high frets would melt into one another.
  const lines = Array.from(
    { length: sizes.width < NARROW ? Math.min(frets ?? 0, 12) : (frets ?? 0) },
    (_, n) => n + 1,
  );
  return (
    <svg aria-hidden="true">
      <rect x={nut} y={top} width={end - nut} height={bottom - top} fill={ink.board} />
      {rows.map((row) =>
        strings.length > FEW && (row.number === selected || row.number === partner) ? (
          <rect
            key={row.number}
            x={0}
            y={row.y - 13}
            width={sizes.width}
            height={26}
            fill={ink.water}
            opacity={row.number === selected ? 0.2 : 0.09}
          />
        ) : null,
      )}
      {lines.map((fret) => (
        <line
          key={fret}
          x1={along(fretShare(fret))}
          x2={along(fretShare(fret))}
          y1={top}
          y2={bottom}
          stroke={ink.edge}
          strokeWidth={fret === 12 ? 2 : 1}
        />
      ))}
      {frets
        ? NUMBERED.filter((fret) => fret <= lines.length).map((fret) => (
            <text
              key={fret}
              x={along((fretShare(fret) + fretShare(fret - 1)) / 2)}
              y={bottom + 13}
              fontSize={12}
              textAnchor="middle"
              fill={ink.quiet}
            >
              {fret}
            </text>
          ))
        : (frets === null ? [] : BARE_MARKS).map(([share, words]) => (
            <g key={words}>
              <line
                x1={along(share)}
                x2={along(share)}
                y1={top}
                y2={bottom}
                stroke={ink.edge}
                strokeDasharray="2 5"
              />
              <text
                x={along(share)}
                y={bottom + 13}
                fontSize={12}
                textAnchor="middle"
                fill={ink.quiet}
              >
                {words}
              </text>
            </g>
          ))}
      <rect x={nut - 4} y={top} width={4} height={bottom - top} fill={ink.text} />
      <rect x={bridge} y={top} width={6} height={bottom - top} fill={ink.text} />
      {rows.map((row) => {
        const string = strings.find((one) => one.number === row.number);
        if (!string) return null;
        const state = now(row.number);
        const isOn = row.number === selected || row.number === partner;
        return (
          <g key={row.number}>
            <Wire
              string={string}
              row={row}
              state={state}
              isOn={isOn}
              drawn={drawn}
              sizes={sizes}
              struck={strikes[row.number] ?? 0}
              isFretted={Boolean(frets)}
            />
            <PegPicture
              row={row}
              size={sizes.peg * ((string.room ?? 1) < 1 ? 0.65 : 1)}
              angle={
                restAngle(row.number) +
                (state?.knob_deg ?? 0) * (string.peg.tightens === "clockwise" ? 1 : -1)
              }
              inHand={row.number === selected && !fine}
            />
            {string.hasFine ? (
              <FinePicture
                x={bridge + 24}
                y={row.y}
                at={state?.fine ?? 0}
                inHand={row.number === selected && (fine ?? false)}
              />
            ) : null}
          </g>
        );
      })}
    </svg>
  );
}

type WireProps = {
  string: PlayedString;
  row: Row;
  state: StringNow | null;
  isOn: boolean;
  drawn: Geometry;
  sizes: Sizes;
  struck: number;
  isFretted: boolean;
};

/** One string: from its peg over the nut to the bridge, and how it swings. */
function Wire({ string, row, state, isOn, drawn, sizes, struck, isFretted }: WireProps) {
  const { nut, bridge } = drawn;
  const { begins, y } = row;
  const wide = Math.max(1, Math.min(5, 1 + string.thick_mm * 1.7));
  const colour = isOn ? ink.text : ink.quiet;
  const toPeg = row.inNeck
    ? `M${row.peg.x} ${y}H${begins}`
    : `M${row.peg.x} ${row.peg.y}L${sizes.head} ${y}H${nut}`;
  if (state?.broken) {
    return (
      <g fill="none" stroke={ink.amber} strokeWidth={wide}>
        <path d={`${toPeg}h26q14 -1 15 -9t-9 -7`} />
        <path d={`M${bridge} ${y}h-34q-12 0 -13 8t8 6`} />
      </g>
    );
  }
  const share =
    state && state.fret > 0 ? fingerShare(state.fret, state.touched || !isFretted) : null;
  const finger = share === null ? null : nut + share * (bridge - nut);
  const ends =
    state && share !== null && !state.touched
      ? nut + fretShare(state.fret) * (bridge - nut)
      : begins;
  const parts = state?.touched
    ? partsOf((nut + (share ?? 0) * (bridge - nut) - begins) / (bridge - begins))
    : 1;
  const swings = state?.ringing || state?.along;
  const path = state?.slack
    ? `M${begins} ${y}Q${(begins + bridge) / 2} ${y + 16} ${bridge} ${y}`
    : `M${begins} ${y}H${bridge}`;
  return (
    <>
      <path d={toPeg} fill="none" stroke={colour} strokeWidth={Math.min(wide, 2)} opacity={0.7} />
      {swings ? (
        <Swing
          key={struck}
          $faint={state?.along ?? false}
          d={swing(ends, bridge, y, state?.along ? 4 : 13, parts)}
        />
      ) : null}
      <path d={path} fill="none" stroke={colour} strokeWidth={wide} />
      {string.wound && wide > 2.4 ? (
        <path
          d={path}
          fill="none"
          stroke={ink.shade}
          strokeWidth={wide - 1.8}
          strokeDasharray="1.2 2.2"
        />
      ) : null}
      <path d={`M${bridge + 6} ${y}h12`} stroke={colour} strokeWidth={wide} />
      {finger === null || !state ? null : state.touched ? (
        <circle cx={finger} cy={y} r={9} fill="none" stroke={ink.text} strokeWidth={3} />
      ) : (
        <>
          <circle cx={finger} cy={y} r={11} fill={ink.solid} />
          {isFretted ? (
            <text
              x={finger}
              y={y + 4.5}
              fontSize={13}
              fontWeight={700}
              textAnchor="middle"
              fill={ink.onSolid}
            >
              {state.fret}
            </text>
          ) : null}
        </>
      )}
    </>
  );
}

/** No two pegs stand alike. */
function restAngle(number: number): number {
  return ((number * 53) % 120) - 60;
}

type PegProps = { row: Row; size: number; angle: number; inHand: boolean };

/** The end of a peg, as one looks at it; it turns as far as the hand turns it. */
function PegPicture({ row, size, angle, inHand }: PegProps) {
  const [long, short] = [size * 0.78, size * 0.32];
  return (
    <Knob style={{ transform: `translate(${row.peg.x}px, ${row.peg.y}px) rotate(${angle}deg)` }}>
      <rect
        x={-long / 2}
        y={-short / 2}
        width={long}
        height={short}
        rx={short / 2}
        fill={inHand ? ink.solid : ink.sheet}
        stroke={ink.text}
        strokeWidth={inHand ? 2.5 : 1.5}
      />
      <circle cx={long * 0.28} r={2.5} fill={inHand ? ink.onSolid : ink.text} />
    </Knob>
  );
}

type FineProps = { x: number; y: number; at: number; inHand: boolean };

/** A fine tuner: how far its screw has gone, out on the left and in on the right. */
function FinePicture({ x, y, at, inHand }: FineProps) {
  return (
    <g>
      <rect
        x={x - 4}
        y={y - 7}
        width={34}
        height={14}
        rx={7}
        fill={ink.sheet}
        stroke={ink.text}
        strokeWidth={inHand ? 2.5 : 1.25}
      />
      <circle
        cx={x + 13 + Math.max(-1, Math.min(1, at)) * 10}
        cy={y}
        r={5}
        fill={inHand ? ink.solid : ink.edge}
      />
    </g>
  );
}

type ControlProps = Drawn & { row: Row; narrow: boolean };

/** What is pressed: the string itself, its peg, its fine tuner, and its finger by steps. */
function Controls(props: ControlProps) {
  const { strings, now, row, drawn, sizes, narrow, selected, frets } = props;
  const { onPlay, onPeg, onFine, onFinger, words, touches, isDisabled = false } = props;
  const string = strings.find((one) => one.number === row.number);
  const drag = useRef({ x: 0, isOn: false, moved: false, fret: -1 });
  const state = now(row.number);
  if (!string) return null;
  const { nut, bridge } = drawn;
  const unit = sizes.height / roomOf(strings);
  const half = Math.min(22, Math.max(11, (unit * (string.room ?? 1)) / 2));
  const fingerAt = (x: number) => {
    const fret = fretAt((x - nut) / (bridge - nut));
    const most = frets || MOST_FRET;
    if (touches?.(row.number)) return Math.min(MOST_FRET, Math.max(0, Math.round(fret * 10) / 10));
    return fret < 0.2 ? 0 : Math.min(most, Math.ceil(fret - 0.05));
  };
  const move = (event: PointerEvent<HTMLButtonElement>) => {
    const { current } = drag;
    if (!current.isOn || !onFinger) return;
    if (!current.moved && Math.abs(event.clientX - current.x) < DRAG_FROM) return;
    current.moved = true;
    const left = event.currentTarget.parentElement?.getBoundingClientRect().left ?? 0;
    const fret = fingerAt(event.clientX - left);
    if (fret === current.fret) return;
    current.fret = fret;
    onFinger(row.number, fret);
  };
  const said = words?.(row.number) ?? "";
  // on a bare board a finger that presses lies where a chord has it
  const movable = Boolean(frets) || (state?.touched ?? false);
  const hasFinger = (state?.fret ?? 0) > 0 && onFinger !== undefined && movable;
  const step = touches?.(row.number) ? 0.1 : 1;
  const danger = state?.broken || state?.slack;
  return (
    <>
      {onPlay ? (
        <Press
          aria-label={`Play ${string.label}`}
          isDisabled={isDisabled || (state?.broken ?? false)}
          preventFocusOnPress
          style={{
            left: row.begins,
            top: row.y - half,
            width: bridge - row.begins,
            height: 2 * half,
          }}
          onPointerDown={(event) => {
            drag.current = { x: event.clientX, isOn: true, moved: false, fret: state?.fret ?? 0 };
          }}
          onPointerMove={move}
          onPointerUp={() => {
            drag.current.isOn = false;
          }}
          onPointerCancel={() => {
            drag.current.isOn = false;
          }}
          onPress={() => {
            if (!drag.current.moved) onPlay(row.number, performance.now());
            drag.current.moved = false;
          }}
        />
      ) : null}
      {onPeg ? (
        <Press
          aria-label={`Take the ${string.peg.words} of ${string.label}`}
          aria-pressed={row.number === selected}
          preventFocusOnPress
          style={{
            left: row.peg.x - sizes.peg / 2,
            top: row.peg.y - (sizes.straight ? half : sizes.peg / 2),
            width: sizes.peg,
            height: sizes.straight ? 2 * half : sizes.peg,
          }}
          onPress={() => onPeg(row.number)}
        />
      ) : null}
      {string.hasFine && onFine ? (
        <Press
          aria-label={`Take the fine tuner of ${string.label}`}
          preventFocusOnPress
          style={{ left: bridge + 14, top: row.y - half, width: 46, height: 2 * half }}
          onPress={() => onFine(row.number)}
        />
      ) : null}
      <Name
        data-picked={row.number === selected ? "" : undefined}
        data-long={
          (string.room ?? 1) < 1 || string.short.length > 8 || (narrow && string.short.length > 5)
            ? ""
            : undefined
        }
        style={{ left: sizes.head + (narrow ? 2 : 8), top: row.y }}
      >
        {string.short}
        {string.key && !narrow ? <KeyHint>{string.key}</KeyHint> : null}
      </Name>
      <Word
        data-narrow={narrow ? "" : undefined}
        data-danger={danger ? "" : undefined}
        style={{ left: bridge + (string.hasFine ? 62 : narrow ? 10 : 24), top: row.y }}
      >
        {hasFinger && !narrow ? (
          <>
            <Press
              aria-label={`Finger on ${string.label} towards the nut`}
              onPress={() => onFinger(row.number, Math.max(0, round((state?.fret ?? 0) - step)))}
            >
              ‹
            </Press>
            {said}
            <Press
              aria-label={`Finger on ${string.label} towards the bridge`}
              onPress={() => onFinger(row.number, round((state?.fret ?? 0) + step))}
            >
              ›
            </Press>
          </>
        ) : (
          said
        )}
      </Word>
    </>
  );
}

function round(fret: number): number {
  return Math.round(fret * 100) / 100;
}
