import { Ajv2020 } from "ajv/dist/2020";
import addFormats from "ajv-formats";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { schemaIn, valueBy, written } from "./by-schema";
import { choicesFrom } from "./random";

const ajv = addFormats(new Ajv2020({ strict: false }));
const matter = { question: "Book 3 places to Brindle on the 9:40 boat.", text: "The boat to Brindle leaves at 9:40." };
const made = (schema: object, seed = 1) => valueBy(schema, matter, choicesFrom(seed));

/** A schema of some depth, of all that is spoken of here. */
const schemas = fc.letrec<{ node: object }>((tie) => ({
  node: fc.oneof(
    { depthSize: "small", withCrossShrink: true },
    fc.constantFrom<object>(
      { type: "string" },
      { type: "string", minLength: 4, maxLength: 9 },
      { type: "string", format: "date" },
      { type: "string", format: "date-time" },
      { type: "string", format: "email" },
      { type: "string", format: "uri" },
      { type: "string", format: "uuid" },
      { type: "string", pattern: "^[A-Z]{2}-\\d{3}$" },
      { type: "integer", minimum: 2, maximum: 40 },
      { type: "number", exclusiveMinimum: 0, maximum: 1 },
      { type: "integer", multipleOf: 5, minimum: 7 },
      { type: "boolean" },
      { enum: ["open", "closed", 3, null] },
      { const: { fixed: true } },
      { type: ["string", "null"] },
    ),
    fc.record({
      type: fc.constant("array"),
      items: tie("node"),
      minItems: fc.nat(3),
      maxItems: fc.integer({ min: 3, max: 5 }),
    }),
    fc
      .dictionary(fc.constantFrom("place", "time", "seats", "note", "open"), tie("node"), { minKeys: 1 })
      .map((properties) => ({
        type: "object",
        properties,
        required: Object.keys(properties).slice(0, 2),
        additionalProperties: false,
      })),
    fc.array(tie("node"), { minLength: 1, maxLength: 3 }).map((anyOf) => ({ anyOf })),
  ),
}));

describe("a value by a schema", () => {
  it("fits it, whatever it is made of", () => {
    fc.assert(
      fc.property(schemas.node, fc.nat(), (schema, seed) => {
        const value = made(schema, seed);
        expect(ajv.validate(schema, value), JSON.stringify({ schema, value, errors: ajv.errors })).toBe(true);
      }),
      { numRuns: 500 },
    );
  });

  it("follows references, of which one may lead back", () => {
    const schema = {
      $defs: {
        leg: {
          type: "object",
          properties: { to: { type: "string" }, next: { anyOf: [{ type: "null" }, { $ref: "#/$defs/leg" }] } },
          required: ["to", "next"],
        },
      },
      $ref: "#/$defs/leg",
    };
    for (let seed = 0; seed < 20; seed++) expect(ajv.validate(schema, made(schema, seed))).toBe(true);
  });

  it("is made from what was asked", () => {
    const schema = {
      type: "object",
      properties: { place: { type: "string" }, seats: { type: "integer" }, kind: { enum: ["book", "cancel"] } },
      required: ["place", "seats", "kind"],
    };
    expect(made(schema)).toEqual({ place: "Brindle", seats: 3, kind: "book" });
  });
});

it("a careless hand writes it wrong in four ways, of which a fence harms nothing", () => {
  const value = { seats: 3, to: "Brindle" };
  expect(JSON.parse(written(value, undefined))).toEqual(value);
  expect(written(value, 0)).toContain("```json");
  expect(() => JSON.parse(written(value, 1))).toThrow();
  expect(JSON.parse(written(value, 2))).toEqual({ to: "Brindle" });
  expect(JSON.parse(written(value, 3))).toEqual({ seats: "3", to: "Brindle" });
});

it("a schema is found in the words of a prompt, whatever stands in its texts", () => {
  const schema = { type: "object", description: 'a brace } and a "quote"' };
  expect(
    schemaIn(
      `You are Logbook.\n\nAnswer with JSON that fits this JSON Schema: ${JSON.stringify(schema)}. Nothing else.`,
    ),
  ).toEqual(schema);
  expect(schemaIn("It says {nothing} of one.")).toBeUndefined();
  expect(schemaIn("JSON Schema: {broken")).toBeUndefined();
});
