import { firstSentences } from "./limits";
import type { Choices } from "./random";
import { stems } from "./skills/given";
import { places } from "./world";

/** What a value is made from: what was asked, and what the answer would be in words. */
export interface Matter {
  question: string;
  text: string;
  /** What it was told to do. */
  prompt?: string;
}

type Node = Record<string, unknown>;

/** Levels down to which a schema that goes round is followed. */
const deepest = 12;

/** A value that satisfies a JSON Schema, made from an answer. What the schema leaves open is as short as it may be. */
export function valueBy(schema: unknown, matter: Matter, choices: Choices): unknown {
  return new Maker(schema, matter, choices).value(schema, "", 0);
}

class Maker {
  constructor(
    private readonly root: unknown,
    private readonly matter: Matter,
    private readonly choices: Choices,
  ) {}

  value(schema: unknown, name: string, depth: number): unknown {
    if (typeof schema !== "object" || schema === null) return name === "" ? this.matter.text : null;
    const node = this.resolved(schema as Node);
    if ("const" in node) return node.const;
    if (Array.isArray(node.enum)) return this.oneOf(node.enum);
    const choice = (node.anyOf ?? node.oneOf) as unknown[] | undefined;
    if (Array.isArray(choice) && choice.length > 0) {
      const { anyOf: _any, oneOf: _one, ...rest } = node;
      const open = depth > deepest ? choice.filter((each) => !isDeep(each)) : choice;
      return this.value(merged(rest, this.fitting(open.length > 0 ? open : choice)), name, depth + 1);
    }
    if (Array.isArray(node.type) && node.type.includes("null") && isTime(name) && !clock.test(this.matter.question))
      return null;
    switch (this.typeOf(node, depth)) {
      case "object":
        return this.object(node, depth);
      case "array":
        return this.array(node, name, depth);
      case "integer":
        return this.number(node, name, true);
      case "number":
        return this.number(node, name, false);
      case "boolean":
        return [...stems(name)].some((word) => stems(this.matter.question).has(word));
      case "null":
        return null;
      default:
        return this.text(node, name);
    }
  }

  /** A node with its references followed and all that it has to be at once put together. */
  private resolved(node: Node): Node {
    let all = node;
    for (let step = 0; step < deepest && typeof all.$ref === "string"; step++) {
      const { $ref, ...rest } = all;
      const target = String($ref)
        .replace(/^#\/?/, "")
        .split("/")
        .filter(Boolean)
        .reduce<unknown>(
          (at, part) => (at as Node | undefined)?.[part.replace(/~1/g, "/").replace(/~0/g, "~")],
          this.root,
        );
      all = merged(rest, target);
    }
    const { allOf, ...rest } = all;
    return Array.isArray(allOf)
      ? allOf.reduce<Node>((sum, each) => merged(sum, this.resolved(each as Node)), rest)
      : all;
  }

  private typeOf(node: Node, depth: number): unknown {
    const { type } = node;
    if (Array.isArray(type))
      return depth > deepest && type.includes("null") ? "null" : type.find((each) => each !== "null");
    if (type !== undefined) return type;
    if (node.properties) return "object";
    return node.items || node.prefixItems ? "array" : undefined;
  }

  /** Of several ways the one that the question speaks of; else none, where that is one of them, or one by chance. */
  private fitting(ways: unknown[]): unknown {
    const asked = stems(this.matter.question);
    const speaks = (way: unknown) => [...stems(JSON.stringify(way))].some((word) => word.length > 3 && asked.has(word));
    const none = ways.find((way) => (way as Node | null)?.type === "null");
    return ways.find(speaks) ?? none ?? this.choices.one(ways);
  }

  private oneOf(values: unknown[]): unknown {
    const { question, text } = this.matter;
    const isIn = (said: string) => (value: unknown) =>
      typeof value === "string" && said.toLowerCase().includes(value.toLowerCase());
    return values.find(isIn(question)) ?? values.find(isIn(text)) ?? this.choices.one(values);
  }

  private object({ properties = {}, required = [] }: Node, depth: number): Node {
    const wanted = Object.entries(properties as Node).filter(
      ([name]) => (required as string[]).includes(name) || depth < 4,
    );
    return Object.fromEntries(wanted.map(([name, schema]) => [name, this.value(schema, name, depth + 1)]));
  }

  private array({ items, prefixItems = [], minItems = 0, maxItems = 3 }: Node, name: string, depth: number): unknown[] {
    const first = prefixItems as unknown[];
    const most = Math.max(Math.min(2, maxItems as number), minItems as number, first.length);
    const count = depth > deepest ? Math.max(minItems as number, first.length) : most;
    return Array.from({ length: count }, (_, at) =>
      this.value(first[at] ?? items ?? { type: "string" }, name, depth + 1),
    );
  }

  private number(
    { minimum, maximum, exclusiveMinimum, exclusiveMaximum, multipleOf }: Node,
    name: string,
    isWhole: boolean,
  ) {
    const step = (multipleOf as number | undefined) ?? (isWhole ? 1 : 0.5);
    const from =
      (minimum as number) ?? (exclusiveMinimum === undefined ? undefined : (exclusiveMinimum as number) + step);
    const to =
      (maximum as number) ?? (exclusiveMaximum === undefined ? undefined : (exclusiveMaximum as number) - step);
    const numbers = [...`${this.matter.question} ${this.matter.text}`.matchAll(/(?<![\d:.])\d+(?:\.\d+)?(?![\d:])/g)];
    const found = numbers.map(([text]) => Number(text));
    const fits = found.find(
      (each) => (!isWhole || Number.isInteger(each)) && each >= (from ?? 0) && each <= (to ?? each),
    );
    const wanted = fits ?? from ?? Math.min(to ?? 1, 1 + (name.length % 4));
    const least = Math.ceil((from ?? Number.NEGATIVE_INFINITY) / step);
    return Math.max(Math.round(wanted / step), Number.isFinite(least) ? least : Math.round(wanted / step)) * step;
  }

  private text({ format, minLength = 0, maxLength = 2_000, pattern }: Node, name: string): string {
    const made = byFormat[String(format)] ?? (pattern === undefined ? undefined : byPattern(String(pattern)));
    if (made !== undefined) return made;
    const said = `${this.matter.question} ${this.matter.text}`;
    // what happened is what was told
    if (/event|what|remark|note/i.test(name))
      return capital(this.matter.question)
        .slice(0, maxLength as number)
        .padEnd(minLength as number, ".");
    const sign = /sign/i.test(name) ? /\bsign with ["“]([^"”]+)/i.exec(this.matter.prompt ?? "")?.[1] : undefined;
    if (sign) return sign.slice(0, maxLength as number).padEnd(minLength as number, ".");
    const place = /place|to|from|island|where/i.test(name) ? places.find((each) => said.includes(each)) : undefined;
    const time = isTime(name) ? clock.exec(said)?.[0] : undefined;
    const text = place ?? time ?? firstSentences(this.matter.text.replace(/\s+/g, " ").trim(), 3);
    const cut = (text || name || "none").slice(0, maxLength as number);
    return cut.padEnd(minLength as number, ".");
  }
}

const byFormat: Record<string, string> = {
  date: "2026-06-14",
  time: "09:40:00Z",
  "date-time": "2026-06-14T09:40:00Z",
  duration: "PT20M",
  email: "desk@saltmarsh.example",
  hostname: "saltmarsh.example",
  ipv4: "192.0.2.17",
  ipv6: "2001:db8::17",
  uri: "https://saltmarsh.example/crossings",
  uuid: "5f0c9a52-3b1e-4c55-9a0d-6c1f3a7e2b44",
};

const clock = /\d{1,2}:\d{2}/;

function isTime(name: string): boolean {
  return /time|leaves|(?:^|_)at$/i.test(name);
}

function capital(text: string): string {
  const line = text.replace(/\s+/g, " ").trim();
  return line.charAt(0).toUpperCase() + line.slice(1);
}

/** A text for a pattern of letters, digits and their counts, as `^[A-Z]{2}-\d{3}$` is one. */
function byPattern(pattern: string): string | undefined {
  const text = pattern
    .replace(/^\^|\$$/g, "")
    .replace(
      /(\[[^\]]+\]|\\d|\\w|[^\\[\](){}+*?])(?:\{(\d+)(?:,\d*)?\}|(\+))?/g,
      (_all, of: string, count?: string) => {
        const one =
          of === "\\d" || /^\[0-9/.test(of)
            ? "7"
            : of === "\\w" || /^\[a-z/i.test(of)
              ? of.startsWith("[A")
                ? "Q"
                : "q"
              : of;
        return one.repeat(Number(count ?? 1));
      },
    );
  try {
    return new RegExp(pattern, "u").test(text) ? text : undefined;
  } catch {
    return undefined;
  }
}

/** Two nodes that a value has to satisfy together. */
function merged(a: Node, b: unknown): Node {
  if (typeof b !== "object" || b === null) return a;
  const other = b as Node;
  return {
    ...other,
    ...a,
    ...(a.properties || other.properties
      ? { properties: { ...(other.properties as Node), ...(a.properties as Node) } }
      : {}),
    ...(a.required || other.required
      ? { required: [...new Set([...((a.required as string[]) ?? []), ...((other.required as string[]) ?? [])])] }
      : {}),
  };
}

function isDeep(schema: unknown): boolean {
  return /"(?:\$ref|properties|items)"/.test(JSON.stringify(schema));
}

/** A document as text, as a model that is careless at times writes it: by a number one of its slips, or none. */
export function written(value: unknown, slip: number | undefined): string {
  const text = JSON.stringify(value, null, 2);
  switch (slip) {
    case undefined:
      return text;
    case 0:
      return `Here it is:\n\n\`\`\`json\n${text}\n\`\`\``;
    case 1:
      return text.replace(/[\]}]\s*$/, "");
    case 2:
      return JSON.stringify(withoutFirst(value), null, 2);
    default:
      return JSON.stringify(withNumbersAsText(value), null, 2);
  }
}

function withoutFirst(value: unknown): unknown {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return { value };
  return Object.fromEntries(Object.entries(value).slice(1));
}

function withNumbersAsText(value: unknown): unknown {
  if (typeof value === "number" || typeof value === "boolean") return String(value);
  if (Array.isArray(value)) return value.map(withNumbersAsText);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(Object.entries(value).map(([name, each]) => [name, withNumbersAsText(each)]));
}

/** A JSON Schema that a prompt asks an answer to fit, in words. */
export function schemaIn(prompt: string): object | undefined {
  const at = prompt.search(/JSON Schema/);
  const begin = at < 0 ? -1 : prompt.indexOf("{", at);
  if (begin < 0) return undefined;
  let depth = 0;
  let isText = false;
  for (let place = begin; place < prompt.length; place++) {
    const letter = prompt[place];
    if (isText) {
      if (letter === "\\") place += 1;
      else if (letter === '"') isText = false;
    } else if (letter === '"') isText = true;
    else if (letter === "{") depth += 1;
    else if (letter === "}" && --depth === 0) {
      try {
        return JSON.parse(prompt.slice(begin, place + 1)) as object;
      } catch {
        return undefined;
      }
    }
  }
  return undefined;
}
