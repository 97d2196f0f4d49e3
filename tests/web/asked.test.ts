import { describe, expect, it, vi } from "vitest";
import type { Plan } from "../../web/src/api/client";
import {
  type Asked,
  OWN_NOTES,
  PLAIN as USUAL,
  planQuery,
  practised,
  tuningQuery,
} from "../../web/src/views/instruments/asked";

vi.mock("../../web/src/words/notes", () => ({ naming: () => "letters" }));
vi.mock("../../web/src/words/names", () => ({
  fromTrusted: (method: string) => method === "unison",
  methodOf: (id: string) => ({ id, from_fork: id === "drone", sets_frets: id === "drone" }),
  setsFrets: () => false,
  SETS_FRETS: { words: "", about: "" },
}));

const PLAIN: Asked = { ...USUAL, instrument: "viola" };

describe("the query of a plan", () => {
  it("names the tuning, or its notes where they are one's own", () => {
    expect(tuningQuery(PLAIN)).toEqual({ instrument: "viola", tuning: "standard" });
    const own = { ...PLAIN, tuning: OWN_NOTES, notes: "C3 G3 D4 G4" };
    expect(tuningQuery(own)).toEqual({
      instrument: "viola",
      tuning: "standard",
      notes: "C3 G3 D4 G4",
    });
  });

  it("asks for nothing that the choice made leaves idle", () => {
    const query = planQuery({ ...PLAIN, far: "4", piece: "3-2", offsets: "1,2,3,4" }, "each");
    for (const key of ["fifth_cents", "share", "offsets", "piece", "far", "itself"]) {
      expect(query).not.toHaveProperty(key);
    }
    const narrowed = planQuery({ ...PLAIN, temperament: "fifths", fifth_cents: -2 }, "each");
    expect(narrowed).toMatchObject({ temperament: "fifths", fifth_cents: -2 });
    const twice = planQuery({ ...PLAIN, second_pass: true, far: "4" }, "each");
    expect(twice).toMatchObject({ second_pass: true, far: "4" });
  });

  it("keeps to itself what only the page wants to know", () => {
    const query = planQuery({ ...PLAIN, atHand: "fork", howFar: "out", pegs: "slip" });
    for (const key of ["atHand", "howFar", "pegs", "from", "method"]) {
      expect(query).not.toHaveProperty(key);
    }
  });

  it("trusts a string only where a method goes from string to string", () => {
    const asked = { ...PLAIN, itself: true, start: "2" };
    expect(planQuery(asked, "unison")).toMatchObject({ itself: true, start: 2 });
    expect(planQuery(asked, "each")).not.toHaveProperty("itself");
  });

  it("has a piano sound the notes where notes are at hand and are listened to", () => {
    const asked: Asked = { ...PLAIN, atHand: "notes" };
    expect(planQuery(asked, "each")).toMatchObject({ sounded: true });
    expect(planQuery(asked, "drone")).toMatchObject({ sounded: true });
    expect(planQuery(asked, "tuner")).not.toHaveProperty("sounded");
    expect(planQuery({ ...asked, itself: true }, "unison")).not.toHaveProperty("sounded");
  });
});

describe("what is prepared, as an exercise", () => {
  it("starts as far out as was said", () => {
    const start = (howFar: string) =>
      practised({ ...PLAIN, howFar: howFar as Asked["howFar"] }, "each").start;
    expect(["hair", "out", "slack", ""].map(start)).toEqual(["hair", "month", "slack", "month"]);
    expect(practised(PLAIN, "each", undefined, "open-g").start).toBe("retune");
    expect(practised(PLAIN, "each", undefined, "open-g").came_from).toBe("open-g");
  });

  it("has the pegs that were found, and gives where strings are far out", () => {
    const behaviours = (some: Partial<Asked>) =>
      practised({ ...PLAIN, ...some }, "each").behaviours;
    expect(behaviours({})).toEqual([]);
    expect(behaviours({ pegs: "slip" })).toEqual(["pegs"]);
    expect(behaviours({ pegs: "stick", second_pass: true })).toEqual(["sticking", "coupling"]);
  });

  it("takes the cents of another temperament from its plan, string by string", () => {
    const plan = {
      strings: [
        { number: 3, equal_cents: -2 },
        { number: 1, equal_cents: 2 },
        { number: 2, equal_cents: 0 },
      ],
    } as unknown as Plan;
    const sweet: Asked = { ...PLAIN, temperament: "sweetened" };
    expect(practised(sweet, "each", plan).offsets_cents).toEqual([2, 0, -2]);
    // fretted unisons have the temperament of the frets
    expect(practised(sweet, "unison", plan).offsets_cents).toEqual([]);
    expect(practised(PLAIN, "each", plan).offsets_cents).toEqual([]);
    const fifths: Asked = { ...PLAIN, temperament: "fifths", fifth_cents: -2 };
    expect(practised(fifths, "each", plan)).toMatchObject({ offsets_cents: [], fifth_cents: -2 });
    expect(practised(PLAIN, "each").fifth_cents).toBeNull();
  });

  it("begins with the tuner's help only where one tunes by tuner", () => {
    expect(practised(PLAIN, "tuner").aid).toBe("tuner");
    expect(practised(PLAIN, "each").aid).toBe("ripple");
  });
});
