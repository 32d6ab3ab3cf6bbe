import { describe, expect, it } from "vitest";
import { asksIn, labelOf, longestValue } from "./asks";

describe("what the page asks of a visitor", () => {
  const asked = [
    { name: "desk", sample: "Mill Quay" },
    { name: "homePort", sample: "" },
  ];

  it("is what the prompt leaves to callers, with what the address gives of it and no more", () => {
    const query = { desk: "Tansy Holm", homePort: ["a", "b"], other: "x", state: "waiting" };
    expect(asksIn(asked, query)).toEqual({ names: ["desk", "homePort"], given: { desk: "Tansy Holm" } });
    expect(asksIn(asked, { desk: "  " }).given).toEqual({});
    expect(asksIn(asked, { desk: "x".repeat(5_000) }).given.desk).toHaveLength(longestValue);
    expect(asksIn([], { desk: "x" })).toEqual({ names: [], given: {} });
  });

  it.each([
    ["desk", "Desk"],
    ["homePort", "Home port"],
    ["home_port", "Home port"],
    ["pier2", "Pier2"],
  ])("names %s as %s", (name, label) => {
    expect(labelOf(name)).toBe(label);
  });
});
