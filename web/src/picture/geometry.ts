// Where the strings, frets and pegs of an instrument lie in a picture of a given size.

export type DrawnPeg = { side: "treble" | "bass"; tightens: "clockwise" | "anticlockwise" };

export type DrawnString = {
  number: number;
  course: number;
  /** Of what speaks, as a share of the longest string. */
  length: number;
  peg: Pick<DrawnPeg, "side">;
  /** How much room it has, against a string that is played; 1 where it is left out. */
  room?: number;
};

export type Sizes = {
  width: number;
  height: number;
  /** Left of the nut: where the pegs are, and where the names stand. */
  head: number;
  names: number;
  /** Right of the bridge, for words. */
  margin: number;
  /** Of a peg, to be pressed. */
  peg: number;
  /** Every string goes straight to its peg: where there is no room for pegs side by side. */
  straight: boolean;
};

export type Row = {
  number: number;
  y: number;
  /** Where the string begins to speak. */
  begins: number;
  peg: { x: number; y: number };
  /** Its peg sits in the neck, where the string begins. */
  inNeck: boolean;
};

export type Geometry = { nut: number; bridge: number; rows: Row[] };

/** Strings of a course lie nearer to each other than two courses do. */
const IN_COURSE = 0.66;
/** A string shorter than the longest one by this much begins in the neck. */
const SHORT = 0.94;

/** The strings from the first, at the top, to the last; pegs as they sit in the head: of one side the
 * string at its edge has the peg nearest to the nut, so that no two cross. */
export function geometry(strings: readonly DrawnString[], sizes: Sizes): Geometry {
  const { width, height, head, names, margin, peg, straight } = sizes;
  const nut = head + names;
  const bridge = width - margin;
  const ordered = strings.toSorted((a, b) => a.number - b.number);
  const steps = stepsOf(ordered);
  const unit = height / roomOf(ordered);
  let y = ((ordered[0]?.room ?? 1) * unit) / 2;
  const rows = ordered.map((one, index): Row => {
    y += (steps[index] ?? 0) * unit;
    const begins = bridge - one.length * (bridge - nut);
    return { number: one.number, y, begins, peg: { x: 0, y }, inNeck: one.length < SHORT };
  });
  const bySide = (side: "treble" | "bass") =>
    rows.filter(
      (row) => !row.inNeck && ordered.find((one) => one.number === row.number)?.peg.side === side,
    );
  const treble = bySide("treble");
  const bass = bySide("bass").toReversed();
  const inLine = straight || treble.length === 0 || bass.length === 0;
  for (const side of [treble, bass]) {
    const room = head - peg;
    const step = side.length > 1 ? Math.min(peg, room / (side.length - 1)) : 0;
    side.forEach((row, place) => {
      row.peg.x = head - peg / 2 - place * step;
      if (inLine) return; // in a line every string goes straight to its own
      row.peg.y = side === treble ? peg / 2 : height - peg / 2;
    });
  }
  for (const row of rows) if (row.inNeck) row.peg.x = row.begins - peg * 0.55;
  return { nut, bridge, rows };
}

/** How far each string lies below the one before it. */
function stepsOf(ordered: readonly DrawnString[]): number[] {
  return ordered.map((one, index) => {
    const before = ordered[index - 1];
    if (!before) return 0;
    const apart = one.course === before.course ? IN_COURSE : 1;
    return (apart * ((one.room ?? 1) + (before.room ?? 1))) / 2;
  });
}

/** How much room strings need from the first to the last, in that of a string that is played. */
export function roomOf(ordered: readonly DrawnString[]): number {
  const edges = ((ordered[0]?.room ?? 1) + (ordered.at(-1)?.room ?? 1)) / 2;
  return stepsOf(ordered).reduce((sum, step) => sum + step, 0) + edges;
}

/** Where a fret of the whole neck lies, as a share of the longest string from the nut. */
export function fretShare(fret: number): number {
  return 1 - 2 ** (-fret / 12);
}

/** Which fret lies at a share of the string from the nut; not whole between two. */
export function fretAt(share: number): number {
  return -12 * Math.log2(Math.max(1 - share, 1 / 64));
}

/** Where the finger lies: a little behind the fret it presses, or right on the node it touches. */
export function fingerShare(fret: number, touched: boolean): number {
  if (touched || fret === 0) return fretShare(fret);
  return fretShare(fret) * 0.68 + fretShare(fret - 1) * 0.32;
}

/** Into how many parts a touched string swings: by the node that is under the finger. */
export function partsOf(share: number): number {
  for (const parts of [2, 3, 4, 5, 6]) {
    for (let node = 1; node < parts; node++) {
      if (Math.abs(share - node / parts) < 0.008) return parts;
    }
  }
  return 1;
}

/** The outline of a string that swings between two points, in some parts. */
export function swing(from: number, to: number, y: number, wide: number, parts: number): string {
  const part = (to - from) / parts;
  const lobes = Array.from({ length: parts }, (_, index) => {
    const [a, b] = [from + index * part, from + (index + 1) * part];
    const middle = (a + b) / 2;
    return `M${a} ${y}Q${middle} ${y - 2 * wide} ${b} ${y}Q${middle} ${y + 2 * wide} ${a} ${y}Z`;
  });
  return lobes.join("");
}
