import { describe, expect, it } from "vitest";
import { z } from "zod";
import { parse } from "./parse";

describe("what does not fit", () => {
  const schema = z.strictObject({
    name: z.string().min(1, "is empty").max(5),
    count: z.int().min(1).max(10).optional(),
    role: z.enum(["visitor", "app"]).optional(),
    list: z
      .array(z.strictObject({ text: z.string() }))
      .max(2)
      .optional(),
    either: z.union([z.string(), z.array(z.strictObject({ kind: z.literal("text"), text: z.string() }))]).optional(),
    values: z.record(z.string().max(3), z.string()).optional(),
  });

  it.each([
    [{}, "`name` is missing; it should be text."],
    [{ name: 7 }, "`name` is a number, and should be text."],
    [{ name: null }, "`name` is null, and should be text."],
    [{ name: "" }, "`name` is empty."],
    [{ name: "Brindle" }, "`name` has more than 5 characters."],
    [{ name: "a", count: 1.5 }, "`count` is a number, and should be a whole number."],
    [{ name: "a", count: 0 }, "`count` is below 1."],
    [{ name: "a", count: 11 }, "`count` is above 10."],
    [{ name: "a", role: "skipper" }, '`role` is "skipper", and should be "visitor" or "app".'],
    [{ name: "a", list: [{ text: "a" }, { text: true }] }, "`list[1].text` is true, and should be text."],
    [{ name: "a", list: [{}, {}, {}] }, expect.stringMatching(/^`list/)],
    [{ name: "a", list: [{ text: "a", colour: 1 }] }, "There is no field `colour` in `list[0]`."],
    [{ name: "a", either: [{ kind: "text" }] }, "`either[0].text` is missing; it should be text."],
    [{ name: "a", either: 7 }, "`either` is a number of none of the kinds that it may be."],
    [{ name: "a", values: { long_name: "x" } }, "`values.long_name` has a name that has more than 3 characters."],
    [{ name: "a", colour: 1 }, "There is no field `colour`."],
    [[], "The body is a list, and should be an object."],
    ["text", "The body is text, and should be an object."],
  ])("is told where it stands and what it should be: %j", (body, detail) => {
    const parsed = parse(schema, body);
    expect(parsed.ok ? undefined : parsed.problem.detail).toEqual(detail);
  });
});
