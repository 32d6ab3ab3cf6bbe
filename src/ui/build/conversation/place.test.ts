import { describe, expect, it, vi } from "vitest";
import { freshPlace, leavePlace, newPlace, nextPlace, placeIn, searchOf } from "./place";

function storage() {
  const all = new Map<string, string>();
  return {
    getItem: (name: string) => all.get(name) ?? null,
    setItem: (name: string, text: string) => void all.set(name, text),
    removeItem: (name: string) => void all.delete(name),
  };
}

/** Two tabs of one browser. */
function tabs() {
  const [one, other, browser] = [storage(), storage(), storage()];
  return [
    { tab: () => one, browser: () => browser },
    { tab: () => other, browser: () => browser },
  ] as const;
}

describe("the conversation that an address names", () => {
  it("is said by the address, begun or not", () => {
    const begun = { id: "con_01k0000000000000000000000a", isBegun: true };
    expect(placeIn(searchOf(begun))).toEqual(begun);
    const fresh = newPlace();
    expect(placeIn(searchOf(fresh))).toEqual(fresh);
  });

  it.each(["", "?conversation=new", "?begins=", "?begins=con_x", "?begins=../etc"])("is none in %j", (search) => {
    expect(placeIn(search)).toBeUndefined();
  });
});

describe("the conversation that is begun next", () => {
  it("stays the same until another is wanted, for each app", () => {
    const [keeps] = tabs();
    const first = nextPlace(keeps, "quay-desk");
    expect(nextPlace(keeps, "quay-desk")).toEqual(first);
    expect(nextPlace(keeps, "logbook").id).not.toBe(first.id);
    const second = freshPlace(keeps, "quay-desk");
    expect(second.id).not.toBe(first.id);
    expect(nextPlace(keeps, "quay-desk")).toEqual(second);
  });

  it("is another in each tab, and is taken up by one alone when its tab was closed", () => {
    const [one, other] = tabs();
    const first = nextPlace(one, "quay-desk");
    expect(nextPlace(other, "quay-desk").id).not.toBe(first.id);
    leavePlace(one, "quay-desk");
    const third = {
      tab: (
        (tab) => () =>
          tab
      )(storage()),
      browser: one.browser,
    };
    const fourth = {
      tab: (
        (tab) => () =>
          tab
      )(storage()),
      browser: one.browser,
    };
    expect(nextPlace(third, "quay-desk")).toEqual(first);
    expect(nextPlace(fourth, "quay-desk").id).not.toBe(first.id);
  });

  it("stays that of its tab after a reload", () => {
    const [one, other] = tabs();
    const first = nextPlace(one, "quay-desk");
    leavePlace(one, "quay-desk");
    expect(nextPlace(one, "quay-desk")).toEqual(first);
    expect(nextPlace(other, "quay-desk").id).not.toBe(first.id);
  });

  it("is a new one each time where the browser keeps nothing", () => {
    const warn = vi.spyOn(console, "warn").mockImplementation(() => {});
    const broken = () => {
      throw new DOMException("No.");
    };
    const keeps = { tab: broken, browser: broken };
    expect([nextPlace(keeps, "a").isBegun, freshPlace(keeps, "a").isBegun]).toEqual([false, false]);
    leavePlace(keeps, "a");
    expect(warn).toHaveBeenCalled();
    warn.mockRestore();
  });
});
