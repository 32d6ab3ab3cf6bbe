import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { schemas } from "../schema/schema";
import { wrongArguments } from "./arguments";
import { CallFragments } from "./calls";
import { toolSchema, toolsSchema } from "./tool";

const fares = {
  name: "fares",
  description: "What a crossing costs.",
  parameters: {
    type: "object",
    properties: { to: { $ref: "#/$defs/place" }, count: { type: "integer", minimum: 1 } },
    required: ["to"],
    $defs: { place: { enum: ["Brindle", "Tansy Holm"] } },
  },
  answer: { by: "text", text: "4.00 EUR" },
} as const;

describe("a tool", () => {
  it("has a name that models take, a description and one way to be answered", () => {
    expect(toolSchema.safeParse(fares).success).toBe(true);
    expect(toolSchema.safeParse({ ...fares, name: "what it costs" }).success).toBe(false);
    expect(toolSchema.safeParse({ ...fares, answer: { by: "address", url: "file:///etc/passwd" } }).success).toBe(
      false,
    );
    expect(toolsSchema.safeParse([fares, fares]).success).toBe(false);
  });

  it("takes what its schema takes, and says of anything else what is wrong, with the place", () => {
    const tool = toolSchema.parse(fares);
    expect(wrongArguments(tool, { to: "Brindle", count: 2 }, schemas)).toBeUndefined();
    expect(wrongArguments(tool, { to: "Rome" }, schemas)).toMatch(
      /^The arguments do not fit the schema of fares: to must be/,
    );
    expect(wrongArguments(tool, {}, schemas)).toMatch(/required property 'to'/);
    expect(wrongArguments(tool, "Brindle", schemas)).toBe("The arguments of fares are no JSON object.");
    expect(wrongArguments(tool, [1], schemas)).toBe("The arguments of fares are no JSON object.");
  });

  it("may have a schema of the same name as another's", () => {
    const named = (type: string) => ({
      name: "x",
      parameters: { $id: "place", type: "object", properties: { to: { type } } },
    });
    expect([schemas.wrongIn(named("string").parameters), schemas.wrongIn(named("number").parameters)]).toEqual([
      undefined,
      undefined,
    ]);
    expect(wrongArguments(named("number"), { to: "Brindle" }, schemas)).toMatch(/to must be number/);
    expect(wrongArguments(named("string"), { to: "Brindle" }, schemas)).toBeUndefined();
  });

  it("has a schema that is one; references lead nowhere else", () => {
    expect(schemas.wrongIn(toolSchema.parse(fares).parameters)).toBeUndefined();
    expect(schemas.wrongIn({ type: "no type" })).toBeTruthy();
    expect(schemas.wrongIn({ $ref: "https://saltmarsh.example/place.json" })).toMatch(/reference/);
  });
});

describe("the fragments of calls", () => {
  it("come to the same, however the arguments are cut and the calls mixed", () => {
    const given = [{ to: "Brindle" }, { to: "Tansy Holm", count: 2 }];
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 80, maxLength: 80 }), (order) => {
        const fragments = new CallFragments();
        const rest = given.map((each) => [...JSON.stringify(each)]);
        for (const at of [0, 1]) fragments.add({ block: String(at), id: `c${at}`, name: "fares" });
        for (const isFirst of order) {
          const letter = rest[isFirst ? 0 : 1]?.shift();
          if (letter !== undefined) fragments.add({ block: isFirst ? "0" : "1", arguments: letter });
        }
        for (const [at, letters] of rest.entries()) fragments.add({ block: String(at), arguments: letters.join("") });
        expect(fragments.calls(1)).toEqual(
          given.map((each, at) => ({ call: `c${at}`, name: "fares", arguments: each })),
        );
      }),
    );
  });

  it("get an id where the API gives none, or one twice", () => {
    const fragments = new CallFragments();
    fragments.add({ block: "0", name: "a" });
    fragments.add({ block: "1", name: "b", id: "x" });
    fragments.add({ block: "2", name: "c", id: "x" });
    expect(fragments.calls(3)?.map(({ call }) => call)).toEqual(["call_3_1", "x", "call_3_3"]);
  });

  it("keep arguments that are no JSON as they are, and take none for an empty object", () => {
    const fragments = new CallFragments();
    fragments.add({ block: "0", name: "a", arguments: "{to: Brindle" });
    fragments.add({ block: "1", name: "b" });
    fragments.add({ block: "2", name: "c", arguments: "[".repeat(300) + "]".repeat(300) });
    expect(fragments.calls(1)?.map((each) => each.arguments)).toEqual([
      "{to: Brindle",
      {},
      "[".repeat(300) + "]".repeat(300),
    ]);
  });

  it("are bounded in number and length", () => {
    const many = new CallFragments();
    for (let at = 0; at < 40; at += 1) many.add({ block: String(at), name: "a" });
    const long = new CallFragments();
    for (let at = 0; at < 6; at += 1) long.add({ block: "0", name: "a", arguments: "x".repeat(60_000) });
    expect([many.calls(1), long.calls(1)]).toEqual([undefined, undefined]);
  });
});
