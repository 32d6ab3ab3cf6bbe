import { expect, it } from "vitest";
import { guardedSchemas } from "./schemas";

it("a pattern that runs away is cut off, and all else is as it is", () => {
  const runaway = { type: "string", pattern: "^(a+)+$" };
  const text = `${"a".repeat(60)}!`;
  expect(guardedSchemas.misfitOf(runaway, text)).toMatchObject({ why: 'must match pattern "^(a+)+$"' });
  expect(guardedSchemas.misfitOf(runaway, "aaaa")).toBeUndefined();
  expect(guardedSchemas.wrongIn({ type: "string", pattern: "(" })).toBeTruthy();
});
