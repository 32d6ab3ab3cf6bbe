import { describe, expect, it } from "vitest";
import { accessSchema } from "./access";
import { documentRefused, documentsOnPage, picturesRefused } from "./sent";

describe("documents of visitors", () => {
  const access = accessSchema.parse({ documents: { from: ["page"], most: 2, addresses: "none" } });

  it.each([
    ["page", "file", 1, undefined],
    ["page", "file", 2, "conflict"],
    ["page", "address", 0, "forbidden"],
    ["calls", "file", 0, "forbidden"],
  ] as const)("from %s, as a %s, beside %i others: %s", (from, what, count, kind) => {
    expect(documentRefused(access, from, what, count)?.kind).toBe(kind);
  });

  it("are taken from nowhere at first, and the page is told how many and how large", () => {
    expect(documentsOnPage(accessSchema.parse({}))).toBeNull();
    expect(documentsOnPage(access)).toEqual({ most: 2, largest: 10 * 1024 * 1024, addresses: false });
  });
});

describe("pictures", () => {
  const access = accessSchema.parse({ pictures: { from: ["calls"], most: 2 } });

  it.each([
    ["calls", 2, undefined],
    ["calls", 3, "bad-request"],
    ["page", 1, "forbidden"],
    ["page", 0, undefined],
  ] as const)("from %s, %i of them: %s", (from, count, kind) => {
    expect(picturesRefused(access, from, count)?.kind).toBe(kind);
  });
});
