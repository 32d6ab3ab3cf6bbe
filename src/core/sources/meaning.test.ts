import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { cosine, type Matrix, mergedRanks, nearestIn, unitVector } from "./meaning";

const unit = (...numbers: number[]) => unitVector(numbers) ?? expect.unreachable();
const matrix = (from: number, ...rows: Float32Array[]): Matrix => ({
  ids: rows.map((_, at) => from + at),
  length: rows[0]?.length ?? 0,
  numbers: Float32Array.from(rows.flatMap((row) => [...row])),
});

describe("vectors", () => {
  it("have length one, and none where they point nowhere", () => {
    expect([...unit(3, 4)]).toEqual([expect.closeTo(0.6), expect.closeTo(0.8)]);
    expect([unitVector([0, 0]), unitVector([]), unitVector([Number.NaN])]).toEqual([undefined, undefined, undefined]);
    expect(cosine(unit(1, 0), unit(0, 1))).toBe(0);
  });

  it("find what is nearest, over several documents, and pass over what is of another length", () => {
    const all = [matrix(1, unit(1, 0), unit(0, 1)), matrix(10, unit(1, 0.2), unit(-1, 0)), matrix(20, unit(1, 0, 0))];
    expect(nearestIn(all, unit(1, 0), 3).map(({ id }) => id)).toEqual([1, 10, 2]);
    expect(nearestIn(all, unit(1, 0, 0), 3).map(({ id }) => id)).toEqual([20]);
    expect(nearestIn([], unit(1), 3)).toEqual([]);
  });

  it("are found as by putting all of them in order", () => {
    const vector = fc.tuple(fc.integer({ min: 1, max: 9 }), fc.integer({ min: -9, max: 9 }));
    fc.assert(
      fc.property(
        fc.array(vector, { minLength: 1, maxLength: 40 }),
        vector,
        fc.integer({ min: 1, max: 8 }),
        (rows, of, most) => {
          const units = rows.map((row) => unit(...row));
          const query = unit(...of);
          const all = units.map((each) => cosine(each, query)).sort((a, b) => b - a);
          const found = nearestIn([matrix(0, ...units)], query, most).map(({ likeness }) => likeness);
          expect(found.map((each) => each.toFixed(4))).toEqual(all.slice(0, most).map((each) => each.toFixed(4)));
        },
      ),
    );
  });
});

describe("two orders as one", () => {
  it("put first what stands high in both", () => {
    const near = [
      { id: 3, likeness: 0.9 },
      { id: 2, likeness: 0.8 },
      { id: 9, likeness: 0.7 },
    ];
    expect(mergedRanks([1, 2, 3], near).map(({ id }) => id)).toEqual([3, 2, 1, 9]);
    expect(mergedRanks([1, 2, 3], near)[0]?.likeness).toBe(1);
  });

  it("leave out what has none of the words and is far off", () => {
    const near = [
      { id: 3, likeness: 0.8 },
      { id: 7, likeness: 0.1 },
      { id: 1, likeness: 0.05 },
    ];
    expect(mergedRanks([1], near).map(({ id }) => id)).toEqual([1, 3]);
  });

  it("are the one that is there where the other is empty", () => {
    expect(mergedRanks([4, 2], []).map(({ id }) => id)).toEqual([4, 2]);
    expect(mergedRanks([], [{ id: 5, likeness: 0.4 }]).map(({ id }) => id)).toEqual([5]);
    expect(mergedRanks([], [])).toEqual([]);
  });
});
