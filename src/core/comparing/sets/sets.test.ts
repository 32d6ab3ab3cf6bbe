import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { measured } from "./answer";
import { hiddenOrder } from "./blind";
import { differingIn } from "./differing";
import { spreadOf } from "./spread";

describe("a spread", () => {
  it("has its quartiles between neighbours", () => {
    expect(spreadOf([4, 1, 3, 2])).toEqual({ count: 4, least: 1, lower: 1.75, median: 2.5, upper: 3.25, most: 4 });
    expect(spreadOf([7])).toEqual({ count: 1, least: 7, lower: 7, median: 7, upper: 7, most: 7 });
    expect(spreadOf([])).toBeUndefined();
  });

  it("is the same in whatever order the values stand", () => {
    const values = fc.array(fc.double({ noNaN: true, noDefaultInfinity: true, min: -1e6, max: 1e6 }), { minLength: 1 });
    fc.assert(
      fc.property(values, (all) => {
        expect(spreadOf(all.toReversed())).toEqual(spreadOf(all));
      }),
    );
  });
});

describe("the order of hidden lanes", () => {
  it("has each lane once, is the same at each look, and puts each lane in each place about as often", () => {
    const counts = new Map<string, number>();
    for (let row = 0; row < 400; row++) {
      const order = hiddenOrder("set_1", row, 4);
      expect(order.toSorted()).toEqual([0, 1, 2, 3]);
      expect(hiddenOrder("set_1", row, 4)).toEqual(order);
      for (const [place, lane] of order.entries()) {
        const at = `${lane} ${place}`;
        counts.set(at, (counts.get(at) ?? 0) + 1);
      }
    }
    // of 400 rows a place has 100 on the average, give or take 9: five times that is no chance
    expect(counts.size).toBe(16);
    for (const times of counts.values()) expect(Math.abs(times - 100)).toBeLessThan(45);
  });
});

describe("a reply", () => {
  const figures = { outcome: "complete", firstTextMs: 500, ms: 1500, input: 10, output: 40, price: 0.002 };
  const reply = { text: "The 9:40.", making: null, figures };

  it("is measured as far as its figures are known", () => {
    expect(measured(reply, "firstText")).toBe(500);
    expect(measured(reply, "speed")).toBe(40);
    expect(measured(reply, "price")).toBe(0.002);
    expect(measured(reply, "length")).toBe(40);
    expect(measured({ ...reply, figures: { ...figures, firstTextMs: 1500 } }, "speed")).toBeUndefined();
    expect(measured({ ...reply, text: "" }, "firstText")).toBeUndefined();
  });
});

describe("what lanes don't all state", () => {
  it("names the lanes that do, and leaves out what the question says and lanes that said nothing", () => {
    const lanes = [
      { lane: 0, text: "The 9:40 takes eight bicycles." },
      { lane: 2, text: "It leaves at 9:40." },
      { lane: 3, text: "" },
    ];
    expect(differingIn({ question: "When is the 9:40?", lanes })).toEqual([{ fact: "eight bicycles", lanes: [0] }]);
  });
});
