import { describe, expect, it } from "vitest";
import {
  type DrawnString,
  fingerShare,
  fretAt,
  fretShare,
  geometry,
  partsOf,
} from "../../web/src/picture/geometry";

const SIZES = {
  width: 1000, height: 240, head: 140, names: 100, margin: 120, peg: 40, straight: false,
}; // prettier-ignore

function strings(sides: string, lengths: number[] = []): DrawnString[] {
  return [...sides].map((side, index) => ({
    number: index + 1,
    course: index + 1,
    length: lengths[index] ?? 1,
    peg: { side: side === "t" ? "treble" : "bass", tightens: "anticlockwise" },
  }));
}

/** Whether two straight lines cross between their ends. */
function cross(a: number[][], b: number[][]): boolean {
  const turn = (p: number[], q: number[], r: number[]) =>
    ((q[0] ?? 0) - (p[0] ?? 0)) * ((r[1] ?? 0) - (p[1] ?? 0)) -
    ((q[1] ?? 0) - (p[1] ?? 0)) * ((r[0] ?? 0) - (p[0] ?? 0));
  const [p = [], q = []] = a;
  const [r = [], s = []] = b;
  return turn(p, q, r) * turn(p, q, s) < 0 && turn(r, s, p) * turn(r, s, q) < 0;
}

describe("the drawn instrument", () => {
  it("leads every string to a peg of its own, and no two cross", () => {
    for (const sides of ["tttbbb", "ttbb", "bbbbbb", "ttttbbbb", "ttbbb"]) {
      const { rows } = geometry(strings(sides), SIZES);
      const lines = rows.map(({ y, peg }) => [
        [peg.x, peg.y],
        [SIZES.head, y],
      ]);
      const places = new Set(rows.map(({ peg }) => `${peg.x} ${peg.y}`));
      expect(places.size).toBe(sides.length);
      lines.forEach((one, at) => {
        for (const other of lines.slice(at + 1)) expect(cross(one, other)).toBe(false);
      });
    }
  });

  it("has the peg of the outermost string nearest to the nut on both sides", () => {
    const { rows } = geometry(strings("tttbbb"), SIZES);
    const at = (number: number) => rows[number - 1]?.peg.x ?? 0;
    expect(at(1)).toBeGreaterThan(at(2));
    expect(at(2)).toBeGreaterThan(at(3));
    expect(at(6)).toBeGreaterThan(at(5));
    expect(at(5)).toBeGreaterThan(at(4));
  });

  it("begins a banjo’s short string at fret 5, with its peg there", () => {
    const short = 2 ** (-5 / 12);
    const { rows, nut, bridge } = geometry(strings("ttbbb", [1, 1, 1, 1, short]), SIZES);
    const fifth = rows[4];
    expect(fifth?.begins).toBeCloseTo(nut + fretShare(5) * (bridge - nut), 6);
    expect(fifth?.peg.x).toBeLessThan(fifth?.begins ?? 0);
    expect(fifth?.peg.x).toBeGreaterThan(nut);
  });

  it("has frets where equal temperament has them", () => {
    expect(fretShare(12)).toBeCloseTo(0.5, 12);
    expect(fretShare(5)).toBeCloseTo(0.2508, 4);
    expect(fretShare(7)).toBeCloseTo(0.3326, 4);
    for (const fret of [0.5, 1, 7, 12, 19]) expect(fretAt(fretShare(fret))).toBeCloseTo(fret, 9);
  });

  it("lays a pressing finger behind its fret, and a touching one on its node", () => {
    expect(fingerShare(5, false)).toBeLessThan(fretShare(5));
    expect(fingerShare(5, false)).toBeGreaterThan(fretShare(4));
    expect(fingerShare(12, true)).toBeCloseTo(0.5, 12);
  });

  it("knows into how many parts a touched string swings", () => {
    expect(partsOf(0.5)).toBe(2);
    expect(partsOf(fretShare(7))).toBe(3);
    expect(partsOf(fretShare(5))).toBe(4);
    expect(partsOf(0.46)).toBe(1);
  });
});
