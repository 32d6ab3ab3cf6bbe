import type { Json } from "../wire/json";

/**
 * What can be said of a JSON Schema (2020-12) without compiling it, which a browser with a strict policy may not do:
 * whether the keywords that nearly all schemas are made of have values that they can have.
 */

const types = ["null", "boolean", "object", "array", "number", "integer", "string"];

type Rule = (value: Json) => string | undefined;

const isObject = (value: Json): value is { [name: string]: Json } =>
  typeof value === "object" && value !== null && !Array.isArray(value);

const aSchema: Rule = (value) => schemaFault(value);
const schemas: Rule = (value) =>
  Array.isArray(value) && value.length > 0 ? firstOf(value.map(schemaFault)) : "has to be a list of schemas";
const namedSchemas: Rule = (value) =>
  isObject(value) ? firstOf(Object.values(value).map(schemaFault)) : "has to be an object of schemas";
const aNumber: Rule = (value) => (typeof value === "number" ? undefined : "has to be a number");
const aCount: Rule = (value) =>
  typeof value === "number" && Number.isInteger(value) && value >= 0 ? undefined : "has to be a whole number from 0";
const someTexts: Rule = (value) =>
  Array.isArray(value) && value.every((each) => typeof each === "string") ? undefined : "has to be a list of texts";

const rules: Record<string, Rule> = {
  type: (value) =>
    [value].flat().every((each) => types.includes(each as string)) ? undefined : `has to be one of ${types.join(", ")}`,
  enum: (value) => (Array.isArray(value) ? undefined : "has to be a list"),
  required: someTexts,
  pattern: (value) => (typeof value === "string" && isPattern(value) ? undefined : "has to be a regular expression"),
  $ref: (value) =>
    typeof value === "string" && value.startsWith("#") ? undefined : "has to stay in the schema: nothing is fetched",
  properties: namedSchemas,
  patternProperties: namedSchemas,
  $defs: namedSchemas,
  items: aSchema,
  additionalProperties: aSchema,
  not: aSchema,
  contains: aSchema,
  if: aSchema,
  // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
  then: aSchema,
  else: aSchema,
  allOf: schemas,
  anyOf: schemas,
  oneOf: schemas,
  prefixItems: schemas,
  minimum: aNumber,
  maximum: aNumber,
  exclusiveMinimum: aNumber,
  exclusiveMaximum: aNumber,
  multipleOf: aNumber,
  minLength: aCount,
  maxLength: aCount,
  minItems: aCount,
  maxItems: aCount,
  minProperties: aCount,
  maxProperties: aCount,
};

/** Why a value is no JSON Schema, as far as that is seen by its shape; undefined where it may be one. */
export function schemaFault(value: Json): string | undefined {
  if (typeof value === "boolean") return undefined;
  if (!isObject(value)) return "a schema is an object";
  for (const [keyword, given] of Object.entries(value)) {
    const fault = Object.hasOwn(rules, keyword) ? rules[keyword]?.(given) : undefined;
    if (fault !== undefined) return `${keyword}: ${fault}`;
  }
  return undefined;
}

function firstOf(faults: readonly (string | undefined)[]): string | undefined {
  return faults.find((fault) => fault !== undefined);
}

function isPattern(source: string): boolean {
  try {
    new RegExp(source, "u");
    return true;
  } catch {
    return false;
  }
}
