import { describe, expect, it } from "vitest";
import { packed } from "./strip-turns";
import { afterPage, type Page, pageAbove, placeOf, type Trail, top, trailTo } from "./trail";

/** A page of so many conversations, each of one turn. */
function pageOf(count: number, tokens: number, before: string | null): Page {
  const turns = [{ visitor: 0, reply: tokens, state: "complete" as const, forks: 0, places: 0 }];
  const listed = { id: "con", turns } as Parameters<typeof packed>[0];
  return { conversations: Array.from({ length: count }, () => packed(listed)), before };
}

/** The trails of pages of twenty, from the first on. */
function trailsOf(pages: number): Trail[] {
  const trails: Trail[] = [top];
  for (let page = 1; page < pages; page += 1) {
    const next = afterPage(pageOf(20, 10 * page, `key ${page}`), trails.at(-1) as Trail);
    if (next) trails.push(next);
  }
  return trails;
}

describe("the trail of a page", () => {
  it("says what it comes after and how many stand above it, and leads back up", () => {
    const trails = trailsOf(3);
    expect(trails.map(placeOf)).toMatchObject([
      { before: undefined, above: 0 },
      { before: "key 1", above: 20 },
      { before: "key 2", above: 40 },
    ]);
    expect(pageAbove(trails[2] as Trail)).toEqual(trails[1]);
    expect(pageAbove(top)).toBeUndefined();
  });

  it("ends after the last page", () => {
    expect(afterPage(pageOf(7, 10, null), top)).toBeUndefined();
  });

  it("keeps the length of strips that the first page gave, wherever one scrolled to", () => {
    expect(trailsOf(4).map((trail) => placeOf(trail).longest)).toEqual([undefined, 10, 10, 10]);
  });

  it("finds the page of a row among those passed, the first one for what is above all", () => {
    const trails = trailsOf(5);
    const last = trails.at(-1) as Trail;
    expect([0, 19, 20, 59, 70].map((row) => placeOf(trailTo(last, row)).above)).toEqual([0, 0, 20, 40, 60]);
  });
});
