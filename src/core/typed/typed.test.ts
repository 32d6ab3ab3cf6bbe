import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Schemas, schemas } from "../schema/schema";
import { GrowingData, typedOf } from "./reading";
import { askedInWords, type ReplySchema } from "./schema";
import { typeText } from "./type-text";

const booking: ReplySchema = {
  type: "object",
  properties: {
    to: { enum: ["Brindle", "Tansy Holm"] },
    seats: { type: "integer", minimum: 1, description: "Places." },
    on: { type: "string", format: "date" },
    back: { anyOf: [{ type: "null" }, { $ref: "#/$defs/leg" }] },
    "each-way": { type: "array", items: { type: ["string", "null"] } },
  },
  required: ["to", "seats"],
  $defs: { leg: { type: "object", properties: { at: { type: "string" } }, required: ["at"] } },
};
const fits = { to: "Brindle", seats: 3, on: "2026-06-14", back: { at: "9:40" } };
const read = (text: string) => typedOf(text, booking, schemas);

describe("a reply that has to fit a schema", () => {
  it("is read as its document, with a fence or words around it", () => {
    const text = JSON.stringify(fits, null, 2);
    for (const around of [
      text,
      `\n${text} `,
      `Here it is:\n\n\`\`\`json\n${text}\n\`\`\``,
      `Sure. ${text} Anything else?`,
    ])
      expect(read(around)).toEqual({ ok: true, value: fits });
    expect(typedOf('"yes"', { type: "string" }, schemas)).toEqual({ ok: true, value: "yes" });
  });

  it.each([
    ["I can't.", "it is no JSON document"],
    ['{"to":"Brindle","seats":3', "it is no JSON document"],
    ['{"to":"Rome","seats":3}', "/to must be equal to one of the allowed values"],
    ['{"to":"Brindle"}', "the document must have required property 'seats'"],
    ['{"to":"Brindle","seats":"3"}', "/seats must be integer"],
    ['{"to":"Brindle","seats":3,"on":"tomorrow"}', '/on must match format "date"'],
    [`${"[".repeat(3_000)}${"]".repeat(3_000)}`, "its levels are too many"],
  ])("%.40s does not, and is told why", (text, wrong) => {
    expect(read(text)).toEqual({ ok: false, wrong });
  });

  it("is read as it comes: what there is of it is never more than its end, and is read a few times alone", () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 3 }), fc.integer({ min: 1, max: 40 }), (value, size) => {
        const text = JSON.stringify({ value }, null, 1);
        const growing = new GrowingData();
        let times = 0;
        for (let at = 0; at < text.length; at += size)
          if (growing.add(text.slice(at, at + size)) !== undefined) times += 1;
        expect(times).toBeLessThanOrEqual(16 + 16 * Math.log2(text.length));
      }),
    );
    const growing = new GrowingData();
    const seen = [...'{"to": "Brindle", "seats": 3, "note": "with a dog and two bicycles"}'].flatMap(
      (letter) => growing.add(letter) ?? [],
    );
    expect(seen[0]).toEqual({ to: "Brindle" });
    expect(seen.at(-1)).toMatchObject({ note: expect.stringMatching(/^with a do/) });
    expect(new GrowingData().add(`No document here, ${"word ".repeat(20)}`)).toBeUndefined();
  });

  it("is asked for in words that hold the schema, where an API has no place for it", () => {
    expect(askedInWords(booking)).toContain(JSON.stringify(booking));
  });

  it("has a type", () => {
    expect(typeText(booking)).toBe(`export type Reply = {
  to: "Brindle" | "Tansy Holm";
  /** Places; 1 or more. */
  seats: number;
  /** date. */
  on?: string;
  back?: null | Leg;
  "each-way"?: (string | null)[];
};

export type Leg = {
  at: string;
};`);
    expect(typeText({ type: "array", items: { const: 1 } })).toBe("export type Reply = 1[];");
    expect(typeText({ type: "object", additionalProperties: { type: "number" } })).toContain("Record<string, number>");
    expect(typeText({ description: "ends */ here", type: "string" })).toContain("ends * / here");
  });
});

it("a schema is held against by patterns that can be cut off", () => {
  const asked: string[] = [];
  const careful = new Schemas((pattern) => {
    asked.push(pattern);
    return () => false;
  });
  expect(careful.misfitOf({ type: "string", pattern: "^(a+)+$" }, "aaa!")).toMatchObject({
    why: 'must match pattern "^(a+)+$"',
  });
  expect(asked).toContain("^(a+)+$");
  expect(careful.wrongIn({ type: "string", pattern: "(" })).toBeUndefined();
  expect(schemas.wrongIn({ type: "string", pattern: "(" })).toBeTruthy();
});
