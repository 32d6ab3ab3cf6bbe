import { describe, expect, it } from "vitest";
import { type NumberBounds, readNumber, stepped, taken } from "./taken";

const bounds: NumberBounds = { min: 1, max: 200_000, isWhole: true, empty: "before" };
const read = (text: string, change: Partial<NumberBounds> = {}) => readNumber(text, 7, { ...bounds, ...change });

describe("a number that is typed in a sentence", () => {
  it.each([
    ["800", 800],
    [" 6,000 ", 6_000],
    ["6 000", 6_000],
    ["1,234,567", undefined],
    ["200000", 200_000],
  ])("is read: %j", (text, value) => {
    expect(read(text)).toEqual(
      value === undefined ? { kind: "wrong", why: "It may be from 1 to 200,000." } : { kind: "value", value },
    );
  });

  it.each(["abc", "12x", "1,2,3", "1e5", "0x10", "Infinity", "-", "."])("is not %j", (text) => {
    expect(read(text)).toMatchObject({ kind: "wrong", why: expect.stringContaining("is no number") });
  });

  it("is whole, and within its bounds, or says so", () => {
    expect(read("1.5")).toEqual({ kind: "wrong", why: "Write a whole number from 1 to 200,000." });
    expect(read("1.5", { isWhole: false })).toEqual({ kind: "value", value: 1.5 });
    expect(read("0")).toEqual({ kind: "wrong", why: "It may be from 1 to 200,000." });
  });

  it("stays, or is none, where it was emptied", () => {
    expect(read("")).toEqual({ kind: "value", value: 7 });
    expect(read(" ", { empty: "none" })).toEqual({ kind: "value", value: undefined });
  });

  it("goes by steps within its bounds, without loose digits", () => {
    expect(stepped("0.2", 0.1, 1, { min: 0, max: 2 })).toBe("0.3");
    expect(stepped("1.95", 0.1, 1, { min: 0, max: 2 })).toBe("2");
    expect(stepped("6,000", 100, -1, { min: 1, max: 200_000 })).toBe("5900");
    expect(stepped("", 1, 1, { min: 1, max: 9 })).toBe("");
  });
});

describe("what is typed in the place of a value", () => {
  const upper = (text: string) =>
    text === "" ? { kind: "wrong" as const, why: "Write something." } : { kind: "value" as const, value: text.trim() };

  it("changes it, leaves it, or is wrong", () => {
    expect(taken("two", "one", upper)).toEqual({ kind: "changed", value: "two" });
    expect(taken(" one ", "one", upper)).toEqual({ kind: "same" });
    expect(taken("", "one", upper)).toEqual({ kind: "wrong", why: "Write something." });
  });
});
