import { schemaFault } from "../../schema/shape";
import type { Json } from "../../wire/json";
import { compilePath } from "../../wire/path";
import { Unreadable } from "../fault";
import { inQuotes, type Phrase } from "../phrase";
import { type ExpectationKind, type Expects, excerpt } from "./expectation";

interface IsJson extends Expects {
  kind: "json";
}

/** JSON (RFC 8259); a fence around it is left aside. */
export const isJson: ExpectationKind<IsJson, { said: string }> = {
  forms: ["is JSON", "is not JSON"],
  read(phrase) {
    const form = phrase.takesOne(["is JSON", "is not JSON"]);
    return form && { kind: "json", not: form === "is not JSON" || undefined };
  },
  write: ({ not }) => (not ? "is not JSON" : "is JSON"),
  judge: (_, { text }) => ({ isMet: jsonIn(text) !== undefined, saw: { said: excerpt(text) } }),
  tell: ({ said }) => `said ${inQuotes(said)}`,
};

/** What a text holds as JSON: undefined where it is none. */
function jsonIn(text: string): { value: unknown } | undefined {
  const bare = /^\s*```(?:json)?\s*\n([\s\S]*?)\n\s*```\s*$/i.exec(text)?.[1] ?? text;
  try {
    return { value: JSON.parse(bare) };
  } catch {
    return undefined;
  }
}

interface Fits extends Expects {
  kind: "fits";
  schema: Json;
}

/** A JSON Schema (2020-12). Nothing is fetched: references stay in the schema. */
export const fits: ExpectationKind<Fits, { said: string; where?: string; why?: string }> = {
  forms: ['fits {"type": "object", "required": ["boat"]}', 'does not fit {"type": "array"}'],
  read(phrase) {
    const form = phrase.takesOne(["fits", "does not fit"]);
    if (!form) return undefined;
    const schema = jsonOn(phrase, "the schema");
    const fault = schemaFault(schema);
    if (fault) throw new Unreadable(`this is no JSON Schema: ${fault}`, "See the JSON Schema of 2020-12.");
    return { kind: "fits", schema, not: form === "does not fit" || undefined };
  },
  write: ({ schema, not }) => `${not ? "does not fit" : "fits"} ${JSON.stringify(schema)}`,
  judge({ schema }, { text, misfit }) {
    const json = jsonIn(text);
    const said = excerpt(text);
    if (!json) return { isMet: false, saw: { said } };
    const found = misfit(schema as object, json.value);
    return { isMet: found === undefined, saw: { said, ...found } };
  },
  tell({ said, where, why }) {
    return where === undefined ? `said ${inQuotes(said)}` : `said ${inQuotes(said)}, of which ${where} ${why}`;
  },
};

interface ValueAt extends Expects {
  kind: "value-at";
  path: string;
  value: Json;
}

/** A value at a place of the JSON that the reply is (JSONPath, RFC 9535, as far as wire profiles speak it). */
export const valueAt: ExpectationKind<ValueAt, { found: string[] | null }> = {
  forms: ['at $.boat is "9:40"', "at $.bicycles is not 3"],
  read(phrase) {
    if (!phrase.left.startsWith("at $")) return undefined;
    const written = /^at (\$.*?)\s+(is not|is)\s+(.+)$/s.exec(phrase.rest());
    if (!written) throw new Unreadable("the value is missing", 'Write for example: at $.boat is "9:40".');
    const [, path = "", form, value = ""] = written;
    try {
      compilePath(path);
    } catch (error) {
      throw new Unreadable(`${path} is no path: ${(error as Error).message}`, "Write for example: $.boats[0].time.");
    }
    return { kind: "value-at", path, value: parsed(value, "the value"), not: form === "is not" || undefined };
  },
  write: ({ path, value, not }) => `at ${path} ${not ? "is not" : "is"} ${JSON.stringify(value)}`,
  judge({ path, value }, { text }) {
    const json = jsonIn(text);
    if (!json) return { isMet: false, saw: { found: null } };
    const found = compilePath(path).all(json.value);
    const wanted = ordered(value);
    return {
      isMet: found.some((each) => ordered(each) === wanted),
      saw: { found: found.map((each) => excerpt(JSON.stringify(each) ?? "", 60)).slice(0, 5) },
    };
  },
  tell: ({ found }, { path }) =>
    found === null
      ? "was no JSON"
      : found.length === 0
        ? `has nothing at ${path}`
        : `has ${found.join(", ")} at ${path}`,
};

/** JSON with the members of each object in the order of their names. */
function ordered(value: unknown): string {
  return JSON.stringify(value, (_name, each: unknown) =>
    each !== null && typeof each === "object" && !Array.isArray(each)
      ? Object.fromEntries(Object.entries(each).sort(([a], [b]) => (a < b ? -1 : 1)))
      : each,
  );
}

function jsonOn(phrase: Phrase, what: string): Json {
  const text = phrase.rest();
  if (text === "")
    throw new Unreadable(`${what} is missing`, "Write it behind, on lines that begin with | where it is long.");
  return parsed(text, what);
}

function parsed(text: string, what: string): Json {
  try {
    return JSON.parse(text) as Json;
  } catch (error) {
    throw new Unreadable(`${what} is no JSON: ${(error as Error).message}`, 'Texts stand in quotation marks: "…".');
  }
}
