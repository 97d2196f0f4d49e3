import { beforeAll, describe, expect, it, vi } from "vitest";
import type { Instrument } from "../../web/src/api/client";
import { realismOf, offered, toggled, REALISM } from "../../web/src/views/choose/realism";
import { capital, day, howFar, sizeWords } from "../../web/src/words/formats";
import {
  anyOrder,
  behaviourIds,
  fromTrusted,
  harmonicMeetsFork,
  loadNames,
  nameOf,
  ordersOf,
} from "../../web/src/words/names";
import { cutAtTerms } from "../../web/src/words/terms";

const BEHAVIOURS = ["ringing", "stroke", "pegs", "sticking", "creep", "false", "fretting", "setup"];

vi.mock("../../web/src/api/client", () => ({
  said: async (reply: Promise<{ data: unknown }>) => (await reply).data,
  api: {
    GET: async () => ({
      data: {
        behaviours: BEHAVIOURS.map((id) => ({ id, name: capital(id), about: "" })),
        orders: [
          { id: "usual", name: "Lowest first", about: "" },
          { id: "highest", name: "Highest first", about: "" },
        ],
        methods: [
          {
            id: "each",
            name: "Each",
            about: "",
            orders: ["usual", "highest"],
            from_trusted: false,
          },
          { id: "unison", name: "Unison", about: "", orders: ["usual"], from_trusted: true },
        ],
        words: [
          { id: "beat", words: ["beat", "beats"], about: "" },
          { id: "beat-rate", words: ["beat rate"], about: "" },
          { id: "peg", words: ["peg"], about: "" },
        ],
      },
    }),
  },
}));

beforeAll(loadNames);

function instrument(frets: number, peg: string, notes: string[]): Instrument {
  const strings = notes.map((note) => ({ note, peg, role: "playing" }));
  return { frets, strings } as unknown as Instrument;
}

describe("how far a string is out", () => {
  it("is said in cents, beyond a semitone in semitones", () => {
    expect(howFar(-1.24)).toBe("1.2 cents low");
    expect(howFar(1)).toBe("1.0 cent high");
    expect(howFar(12.4)).toBe("12 cents high");
    expect(howFar(119)).toBe("119 cents high");
    expect(howFar(-340)).toBe("3.4 semitones low");
  });

  it("is nothing where the digits say nothing", () => {
    expect(howFar(0.04)).toBe("in tune");
    expect(howFar(-0.4, 0)).toBe("in tune");
    expect(howFar(null)).toBe("slack");
    expect(sizeWords(-2.31)).toBe("2.3 cents");
    expect(sizeWords(0)).toBe("0 cents");
    expect(sizeWords(null)).toBe("slack");
  });

  it("rounds to ten without a digit behind", () => {
    expect(howFar(9.94)).toBe("9.9 cents high");
    expect(howFar(9.96)).toBe("10 cents high");
  });

  it("is dated as one says it", () => {
    expect(day("2026-03-09T12:00:00Z")).toBe("9 March");
    expect(capital("how far")).toBe("How far");
    expect(capital("")).toBe("");
  });
});

describe("what an instrument can do", () => {
  it("leaves frets to what has frets, and pegs that stick to friction pegs", () => {
    const viola = offered(instrument(0, "friction", ["C3", "G3", "D4", "A4"]));
    expect(viola.map(({ id }) => id)).not.toContain("fretting");
    expect(viola.map(({ id }) => id)).toContain("sticking");
    const guitar = offered(instrument(19, "machine", ["E2", "A2"]));
    expect(guitar.map(({ id }) => id)).toContain("fretting");
    expect(guitar.map(({ id }) => id)).not.toContain("sticking");
    expect(guitar.find(({ id }) => id === "pegs")?.name).toBe("Machines have play");
    expect(viola.find(({ id }) => id === "pegs")?.name).toBe("Pegs");
  });

  it("is one of three steps, or of one's own choice, in any order", () => {
    expect(realismOf([])).toBe("plain");
    expect(realismOf(["stroke", "ringing"])).toBe("lively");
    expect(realismOf([...REALISM.life.set].reverse())).toBe("life");
    expect(realismOf(["ringing"])).toBe("own");
  });

  it("is new strings or old ones, never both", () => {
    expect(behaviourIds()).toEqual(BEHAVIOURS);
    expect(toggled(["creep", "ringing"], "false", true)).toEqual(["ringing", "false"]);
    expect(toggled(["ringing", "false"], "creep", true)).toEqual(["ringing", "creep"]);
    expect(toggled(["ringing", "false"], "creep", false)).toEqual(["ringing", "false"]);
    expect(toggled(["stroke", "ringing"], "ringing", false)).toEqual(["stroke"]);
  });
});

describe("what things are called", () => {
  it("comes from the server; what it does not know keeps its id", () => {
    expect(nameOf("orders", "highest")).toBe("Highest first");
    expect(nameOf("orders", "sideways")).toBe("sideways");
  });

  it("offers an order where a method has more than one", () => {
    expect(anyOrder("each")).toBe(true);
    expect(anyOrder("unison")).toBe(false);
    expect(ordersOf("each").map(({ words }) => words)).toEqual(["Lowest first", "Highest first"]);
    expect(ordersOf("no such")).toEqual([]);
    expect(fromTrusted("unison")).toBe(true);
    expect(fromTrusted("no such")).toBe(false);
  });

  it("knows which strings have a harmonic that is a fork's A", () => {
    // 440 Hz is twice A3, four times A2, and three times D3 (146.7 Hz)
    expect(harmonicMeetsFork(instrument(19, "machine", ["E2", "A2"]))).toBe(true);
    expect(harmonicMeetsFork(instrument(0, "friction", ["C2", "G2", "D3"]))).toBe(true);
    expect(harmonicMeetsFork(instrument(4, "friction", ["G4", "C4", "E4", "A4"]))).toBe(false);
  });
});

describe("words of the glossary in a text", () => {
  it("are marked once each, the longest first, and nothing is lost", () => {
    const text = "The beat rate tells it: two Beats, then a beat; a pegbox is no peg.";
    const parts = cutAtTerms(text);
    const marked = parts.flatMap((part) => (typeof part === "string" ? [] : [part.written]));
    expect(marked).toEqual(["beat rate", "Beats", "peg"]);
    expect(parts.map((part) => (typeof part === "string" ? part : part.written)).join("")).toBe(
      text,
    );
  });
});
