import { describe, expect, it } from "vitest";
import { GrowingText } from "./growing-text";
import { Trace } from "./trace";

describe("a trace", () => {
  const traceOf = (arrivals: [at: number, length: number][]) => {
    const trace = new Trace();
    for (const [at, length] of arrivals) trace.add(at, length);
    return trace;
  };

  it("has what came in each of 24 equal parts, however long the reply took", () => {
    for (const span of [24, 2_400, 3_600_000]) {
      const within = Array.from({ length: 23 }, (_, at): [number, number] => [((at + 1.5) * span) / 24, 1]);
      const trace = traceOf([[0, 3], ...within, [span, 5]]);
      expect(trace.parts).toEqual([3, ...Array(22).fill(1), 6]);
      expect(trace.firstAt).toBe(0);
    }
  });

  it("shows a pause as empty parts, and a burst as one", () => {
    const counted =
      traceOf([
        [0, 5],
        [1, 5],
        [950, 40],
        [2_400, 1],
      ]).parts ?? [];
    expect([counted[0], counted[9], counted[23]]).toEqual([10, 40, 1]);
    expect(counted.filter((length) => length > 0)).toHaveLength(3);
  });

  it("is none of what came at one moment, or not at all", () => {
    expect(traceOf([]).parts).toBeUndefined();
    expect(
      traceOf([
        [5, 3],
        [5, 4],
      ]).parts,
    ).toBeUndefined();
  });
});

describe("a growing text", () => {
  it("is what was added, whenever it is read", () => {
    const text = new GrowingText();
    let expected = "";
    for (let at = 0; at < 200; at++) {
      text.add(`${at} `);
      expected += `${at} `;
      if (at % 30 === 0) expect(text.text).toBe(expected);
    }
    expect(text.text).toBe(expected);
  });
});
