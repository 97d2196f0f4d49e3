import { describe, expect, it } from "vitest";
import { named } from "../../web/src/words/notes";

describe("what notes are called", () => {
  it("changes notes, lines of notes, strings and chords, and nothing else", () => {
    expect(named("E2 A2 D3 G3 B3 E4", "letters_h")).toBe("E2 A2 D3 G3 H3 E4");
    expect(named("A#2 Bb3", "letters_h")).toBe("A#2 B3");
    expect(named("low E", "solfege")).toBe("low Mi");
    expect(named("F#3", "solfege")).toBe("Fa#3");
    expect(named("Bm", "letters_h")).toBe("Hm");
    expect(named("D7", "solfege")).toBe("Re7");
    expect(named("G and its octave", "solfege")).toBe("Sol and its octave");
    expect(named("first low sympathetic Sa", "solfege")).toBe("first low sympathetic Sa");
    expect(named("low E", "letters")).toBe("low E");
  });
});
