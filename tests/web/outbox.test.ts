import { describe, expect, it } from "vitest";
import { Outbox, type Shelf } from "../../web/src/realtime/outbox";

function shelf(): Shelf & { kept: Map<string, string> } {
  const kept = new Map<string, string>();
  return {
    kept,
    getItem: (key) => kept.get(key) ?? null,
    setItem: (key, value) => void kept.set(key, value),
    removeItem: (key) => void kept.delete(key),
  };
}

const turn = (number: number) => ({ number, at_s: number / 2, action: `turn ${number}` });

describe("the outbox", () => {
  it("keeps what is done in its order until it is on disk", () => {
    const box = new Outbox<string>("a", shelf());
    for (const number of [1, 2, 3]) box.add(turn(number));
    expect(box.all.map((one) => one.number)).toEqual([1, 2, 3]);
    box.saved(2);
    expect(box.all).toEqual([turn(3)]);
    expect(box.last).toEqual(turn(3));
  });

  it("survives a reload, each attempt with its own", () => {
    const stored = shelf();
    new Outbox<string>("a", stored).add(turn(1));
    new Outbox<string>("b", stored).add(turn(7));
    expect(new Outbox<string>("a", stored).all).toEqual([turn(1)]);
    expect(new Outbox<string>("b", stored).all).toEqual([turn(7)]);
  });

  it("leaves nothing in the storage once all is on disk", () => {
    const stored = shelf();
    const box = new Outbox<string>("a", stored);
    box.add(turn(1));
    box.add(turn(2));
    box.saved(9);
    expect(box.last).toBeUndefined();
    expect(stored.kept.size).toBe(0);
  });

  it("drops one that was refused and no other", () => {
    const stored = shelf();
    const box = new Outbox<string>("a", stored);
    for (const number of [1, 2, 3]) box.add(turn(number));
    box.drop(2);
    box.drop(2);
    expect(new Outbox<string>("a", stored).all.map((one) => one.number)).toEqual([1, 3]);
  });

  it("begins empty where the storage holds something else", () => {
    for (const strange of ["{", "null", '"text"', '{"number":1}']) {
      const stored = shelf();
      stored.kept.set("a", strange);
      const box = new Outbox<string>("a", stored);
      expect(box.all).toEqual([]);
      box.add(turn(1));
      expect(JSON.parse(stored.kept.get("a") ?? "")).toEqual([turn(1)]);
    }
  });
});
