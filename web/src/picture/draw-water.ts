// Drawing the water: pitch is height, time runs to the right, the target is a still line.

import { QUIET_DB, type Ripple, type Sample, type WaterLog, WINDOW_MS } from "./water-log";

export type Colours = {
  text: string;
  quiet: string;
  shade: string;
  water: string;
  depth: string;
};

export type Picture = {
  width: number;
  height: number;
  now: number;
  /** Whether the surface shows low and high (the aid Level). */
  level: boolean;
  /** How near the string is to come: so wide is the waterline. 0 for a thin one. */
  toleranceCents: number;
  /** What stands on the line: the string’s name, or the note. */
  name: string;
  still: boolean;
  colours: Colours;
};

const BAND_FROM_HZ = 12; // faster ripples than the eye can follow are drawn as a rough band
const RIGHT = 56;
const FONT = '500 14px "Figtree Variable", system-ui, sans-serif';
/** Where the line lies, of the height, and how much stays free above the highest surface. */
export const MIDDLE = 0.47;
export const EDGE_SHARE = 0.17;
export const EDGE_PX = 46;
const SOFT_CENTS = 4; // near the line one cent is tall, far out it is short
const EDGE_CENTS = 60;
const STILL_CENTS = 1;
const STANDING_WAVES: Record<NonNullable<Ripple>, number> = {
  fast: 24,
  slow: 8,
  very_slow: 3,
  still: 0,
};
const LOUD_DB = -18; // as loud as a pair gets
const LOUDNESS_PX = 90;

export function drawWater(ink: CanvasRenderingContext2D, log: WaterLog, picture: Picture): void {
  const { width, height, colours } = picture;
  ink.clearRect(0, 0, width, height);
  ink.font = FONT;
  const middle = height * MIDDLE;
  const reach = middle - Math.min(EDGE_PX, height * EDGE_SHARE);
  if (picture.level) drawLine(ink, picture, middle, reach);
  if (picture.still) drawStill(ink, log, picture, middle, reach);
  else drawHistory(ink, log, picture, middle, reach);
  ink.strokeStyle = colours.text;
  ink.lineWidth = 1.5;
  ink.setLineDash([2, 6]);
  stroke(ink, [0, middle], [width, middle]);
  ink.setLineDash([]);
  if (picture.level) drawName(ink, picture, middle);
  const last = log.samples.at(-1);
  if (picture.level && last?.cents != null && picture.now - last.at < 400) {
    drawFloat(ink, picture, last.cents, surfaceY(last.cents, middle, reach));
  }
  drawMarks(ink, log, picture);
  if (last && picture.now - last.at < 400) drawLoudness(ink, picture, last.loudDb);
}

/** How loud it still is, as a bar of its own: the ripples keep their height until they are gone. */
function drawLoudness(
  ink: CanvasRenderingContext2D,
  { width, height, colours }: Picture,
  loudDb: number,
): void {
  const share = Math.max(0, Math.min(1, (loudDb - QUIET_DB) / (LOUD_DB - QUIET_DB)));
  if (share === 0) return;
  const [x, foot] = [width - 10, height - 40];
  ink.fillStyle = colours.quiet;
  ink.fillRect(x - 4, foot - LOUDNESS_PX * share, 4, LOUDNESS_PX * share);
  ink.textAlign = "right";
  ink.fillText("loudness", width - 8, height - 24);
}

/** How high the surface stands, as a share of its reach: 1 at the top, −1 at the bottom. */
export function heightOf(cents: number): number {
  const part = Math.asinh(cents / SOFT_CENTS) / Math.asinh(EDGE_CENTS / SOFT_CENTS);
  return Math.max(-1, Math.min(1, part));
}

function surfaceY(cents: number, middle: number, reach: number): number {
  return middle - reach * heightOf(cents);
}

/** The line to come to, as wide as the tolerance. */
function drawLine(
  ink: CanvasRenderingContext2D,
  { width, toleranceCents, colours }: Picture,
  middle: number,
  reach: number,
): void {
  if (toleranceCents === 0) return;
  const above = surfaceY(toleranceCents, middle, reach);
  ink.fillStyle = colours.shade;
  ink.fillRect(0, above, width, 2 * (middle - above));
}

function drawName(ink: CanvasRenderingContext2D, { name, colours }: Picture, middle: number): void {
  ink.fillStyle = colours.text;
  ink.textAlign = "left";
  ink.font = '700 18px "Figtree Variable", system-ui, sans-serif';
  ink.fillText(name, 24, middle - 6);
  ink.font = FONT;
}

function drawHistory(
  ink: CanvasRenderingContext2D,
  log: WaterLog,
  picture: Picture,
  middle: number,
  reach: number,
): void {
  const speed = (picture.width - RIGHT) / WINDOW_MS;
  const x = (at: number) => picture.width - RIGHT - (picture.now - at) * speed;
  const swell = picture.level ? 16 : reach * 0.62;
  let run: Sample[] = [];
  const finish = () => {
    if (run.length > 1) drawRun(ink, run, picture, x, middle, reach, swell);
    run = [];
  };
  for (const sample of log.samples) {
    const before = run.at(-1);
    if (x(sample.at) < -20) continue;
    if (sample.ripple === null || (before && sample.at - before.at > 450)) finish();
    if (sample.ripple !== null) run.push(sample);
  }
  finish();
}

function drawRun(
  ink: CanvasRenderingContext2D,
  run: Sample[],
  { height, colours }: Picture,
  x: (at: number) => number,
  middle: number,
  reach: number,
  swell: number,
): void {
  const base = (s: Sample) => (s.cents === null ? middle : surfaceY(s.cents, middle, reach));
  const isBand = (s: Sample) => s.hz > BAND_FROM_HZ;
  const top = (s: Sample) => base(s) - swell * (isBand(s) ? s.depth : (s.ripple ?? 0));
  const first = run[0];
  const last = run.at(-1);
  if (!first || !last) return;
  ink.beginPath();
  ink.moveTo(x(first.at), height);
  for (const sample of run) ink.lineTo(x(sample.at), top(sample));
  ink.lineTo(x(last.at), height);
  ink.closePath();
  ink.fillStyle = colours.depth;
  ink.fill();
  ink.strokeStyle = colours.water;
  ink.lineWidth = 2.5;
  ink.lineJoin = "round";
  ink.beginPath();
  run.forEach((sample, index) => {
    if (index === 0) ink.moveTo(x(sample.at), top(sample));
    else ink.lineTo(x(sample.at), top(sample));
  });
  ink.stroke();
  ink.lineWidth = 1;
  for (const sample of run.filter(isBand)) {
    stroke(ink, [x(sample.at), top(sample)], [x(sample.at), base(sample) + swell * sample.depth]);
  }
}

/** Without motion: one of four pictures, as few as there are words for how fast it ripples. */
function drawStill(
  ink: CanvasRenderingContext2D,
  log: WaterLog,
  picture: Picture,
  middle: number,
  reach: number,
): void {
  const last = log.samples.at(-1);
  if (!last || last.ripple === null) return;
  const base = last.cents === null ? middle : surfaceY(last.cents, middle, reach);
  ink.strokeStyle = picture.colours.water;
  ink.lineWidth = 2.5;
  ink.beginPath();
  const waves = STANDING_WAVES[log.word ?? "still"];
  for (let x = 0; x <= picture.width - RIGHT; x += 2) {
    const turns = waves * (x / (picture.width - RIGHT));
    ink.lineTo(x, base - (waves ? 22 * Math.cos(2 * Math.PI * turns) : 0));
  }
  ink.stroke();
}

/** Low hangs below the line, high rides above it, still lies flat on it. */
function drawFloat(
  ink: CanvasRenderingContext2D,
  { width, colours }: Picture,
  cents: number,
  y: number,
): void {
  const x = width - RIGHT / 2 - 4;
  ink.fillStyle = colours.text;
  ink.beginPath();
  if (Math.abs(cents) < STILL_CENTS) ink.rect(x - 20, y - 4, 40, 8);
  else if (cents < 0) ink.arc(x, y, 17, 0, Math.PI);
  else ink.arc(x, y, 17, Math.PI, 2 * Math.PI);
  ink.fill();
}

function drawMarks(ink: CanvasRenderingContext2D, log: WaterLog, picture: Picture): void {
  const speed = (picture.width - RIGHT) / WINDOW_MS;
  ink.fillStyle = picture.colours.quiet;
  ink.strokeStyle = picture.colours.text;
  ink.lineWidth = 1.5;
  ink.textAlign = "center";
  let free = Number.NEGATIVE_INFINITY;
  for (const mark of log.marks) {
    const x = picture.width - RIGHT - (picture.now - mark.at) * speed;
    stroke(ink, [x, picture.height - 34], [x, picture.height - 26]);
    const half = ink.measureText(mark.words).width / 2;
    if (x - half > free) {
      ink.fillText(mark.words, x, picture.height - 10);
      free = x + half + 8;
    }
  }
}

function stroke(ink: CanvasRenderingContext2D, from: [number, number], to: [number, number]): void {
  ink.beginPath();
  ink.moveTo(...from);
  ink.lineTo(...to);
  ink.stroke();
}
