import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { typedDigit } from "./digits";

describe("a number that is typed digit by digit", () => {
  it("is whole at once where none is longer", () => {
    expect(typedDigit(undefined, 3, 9)).toEqual({ number: 3, isWhole: true });
    expect(typedDigit(undefined, 2, 12)).toEqual({ number: 2, isWhole: true });
  });

  it("takes the second digit", () => {
    expect(typedDigit(undefined, 1, 12)).toEqual({ number: 1, isWhole: false });
    expect(typedDigit(1, 2, 12)).toEqual({ number: 12, isWhole: true });
    expect(typedDigit(2, 3, 200)).toEqual({ number: 23, isWhole: true });
  });

  it("begins anew with a digit that makes none", () => {
    expect(typedDigit(1, 5, 12)).toEqual({ number: 5, isWhole: true });
  });

  it("is 10 for 0 alone, and none where there are not so many", () => {
    expect(typedDigit(undefined, 0, 12).number).toBe(10);
    expect(typedDigit(undefined, 0, 4).number).toBeUndefined();
    expect(typedDigit(undefined, 7, 4).number).toBeUndefined();
  });

  it("reaches every number of them", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 300 }), (a, b) => {
        const [number, most] = a <= b ? [a, b] : [b, a];
        let typed: number | undefined;
        for (const digit of String(number)) {
          const next = typedDigit(typed, Number(digit), most);
          typed = next.number;
        }
        expect(typed).toBe(number);
      }),
    );
  });
});
