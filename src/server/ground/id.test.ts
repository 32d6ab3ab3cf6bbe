import { expect, it } from "vitest";
import { newId } from "./id";

it("gives ids that are all different, and sort as they were made", () => {
  const ids = Array.from({ length: 10_000 }, () => newId("msg"));
  expect(new Set(ids).size).toBe(ids.length);
  expect(ids.toSorted()).toEqual(ids);
  expect(ids.every((id) => /^msg_[0-9a-hjkmnp-tv-z]{26}$/.test(id))).toBe(true);
  // in each millisecond they go on from another place, which others can't guess
  const places = new Set(ids.map((id) => id.slice(14, 22)));
  expect(places.size).toBeGreaterThan(1);
});
