import type { Json } from "../wire/json";
import { toolName } from "./tool";

/**
 * Tools from an OpenAPI document (3.0 and 3.1, https://spec.openapis.org/oas/v3.1.0): each of its operations can
 * become one. What a model is told is the operation's summary and one schema of all that it takes, wherever in the call
 * that stands; references into the document become definitions of that schema.
 */

/** An operation as a tool could have it. */
export interface Operation {
  name: string;
  description: string;
  method: "GET" | "POST" | "PUT" | "PATCH" | "DELETE";
  /** The path as the document has it. */
  path: string;
  /** The whole address, with `{name}` for arguments. */
  url: string;
  body: Json | undefined;
  parameters: Record<string, Json>;
  headers: { name: string; value: string }[];
  /** What a call of it may lack, in words; undefined where it lacks nothing. */
  lacks: string | undefined;
}

/** What a document holds; or why it is none, in words. */
export type ReadDocument =
  | { kind: "read"; title: string; operations: Operation[] }
  | { kind: "wrong"; why: string; advice: string };

type Members = Record<string, Json>;

const methods = ["get", "post", "put", "patch", "delete"] as const;
/** Characters of a description that a model is told. */
const longestDescription = 1_000;
/** Operations that are looked at. */
const mostOperations = 2_000;

/**
 * The operations of a document.
 * @param document as JSON or YAML has it
 * @param from its own address, which that of a server may be relative to
 */
export function operationsIn(document: unknown, from: string | undefined): ReadDocument {
  const root = membersOf(document as Json);
  const version = root?.openapi;
  if (!root || typeof version !== "string" || !/^3\.[01]\./.test(version))
    return {
      kind: "wrong",
      why: typeof root?.swagger === "string" ? `it is of version ${root.swagger}` : "it names no version of OpenAPI",
      advice: "Take a document of OpenAPI 3.0 or 3.1.",
    };
  const server = membersOf(list(root.servers)[0]);
  const base = addressOf(text(server?.url) ?? "/", from);
  if (base === undefined)
    return {
      kind: "wrong",
      why: "it names no server by its whole address",
      advice: "Put the address under servers, or read the document from its own address.",
    };
  const names = new Set<string>();
  const found = Object.entries(membersOf(root.paths) ?? {}).flatMap(([path, item]) =>
    methods.flatMap((method) => {
      const shared = membersOf(resolved(root, item));
      const operation = membersOf(shared?.[method]);
      return shared && operation ? [{ path, method, shared, operation }] : [];
    }),
  );
  const operations = found.slice(0, mostOperations).map(({ path, method, shared, operation }) => {
    const name = freeName(text(operation.operationId) ?? `${method} ${path}`, names);
    return operationOf({ root, base, name, method, path }, shared, operation);
  });
  const title = text(membersOf(root.info)?.title) ?? "OpenAPI";
  return { kind: "read", title: title.slice(0, 200), operations };
}

interface About {
  root: Members;
  base: string;
  name: string;
  method: (typeof methods)[number];
  path: string;
}

function operationOf({ root, base, name, method, path }: About, shared: Members, operation: Members): Operation {
  const said = [text(operation.summary), text(operation.description)].filter(Boolean).join(". ");
  const taken = new Taken(root);
  const query: string[] = [];
  const own = list(operation.parameters);
  for (const each of [...list(shared.parameters), ...own]) {
    const parameter = membersOf(resolved(root, each));
    const called = text(parameter?.name);
    const isOverridden = !own.includes(each) && own.some((other) => membersOf(resolved(root, other))?.name === called);
    if (!parameter || called === undefined || isOverridden) continue;
    const isIn = parameter.in;
    if (isIn !== "path" && isIn !== "query") {
      if (parameter.required === true) taken.lack(`${called} in its ${isIn === "cookie" ? "cookies" : "headers"}`);
      continue;
    }
    const argument = taken.add(called, parameter.schema ?? {}, {
      isRequired: parameter.required === true || isIn === "path",
      description: text(parameter.description),
    });
    if (isIn === "query") query.push(`${encodeURIComponent(called)}={${argument}}`);
  }
  const body = bodyOf(root, operation, taken);
  const whole = `${base.replace(/\/$/, "")}${path.replace(/\{([^}]+)\}/g, (_, each: string) => `{${argumentName(each)}}`)}`;
  return {
    name,
    description: (said || `${method.toUpperCase()} ${path}`).slice(0, longestDescription),
    method: method.toUpperCase() as Operation["method"],
    path,
    url: query.length > 0 ? `${whole}?${query.join("&")}` : whole,
    body,
    parameters: taken.schema(),
    headers: headersFor(root, operation, taken),
    lacks: taken.lacks,
  };
}

/** The arguments of an operation, as they are gathered. */
class Taken {
  private readonly properties: Members = {};
  private readonly required: string[] = [];
  private readonly definitions: Members = {};
  private readonly missing: string[] = [];

  constructor(private readonly root: Members) {}

  get lacks(): string | undefined {
    return this.missing.length > 0 ? this.missing.join(", ") : undefined;
  }

  /** Takes note of something that no argument can give. */
  lack(what: string): void {
    this.missing.push(what);
  }

  has(name: string): boolean {
    return argumentName(name) in this.properties;
  }

  /** Adds an argument. @returns its name */
  add(name: string, schema: Json, { isRequired, description }: { isRequired: boolean; description?: string }): string {
    const argument = argumentName(name);
    const plain = this.plain(schema);
    const isToBeSaid = description !== undefined && membersOf(plain)?.description === undefined;
    this.properties[argument] = isToBeSaid
      ? { ...membersOf(plain), description: description.slice(0, longestDescription) }
      : plain;
    if (isRequired) this.required.push(argument);
    return argument;
  }

  /** One schema of all of them (JSON Schema, 2020-12). */
  schema(): Members {
    return {
      type: "object",
      properties: this.properties,
      ...(this.required.length > 0 ? { required: [...new Set(this.required)] } : {}),
      ...(Object.keys(this.definitions).length > 0 ? { $defs: this.definitions } : {}),
    };
  }

  /** A schema as JSON Schema has it, what it refers to among the definitions. */
  plain(schema: Json): Json {
    if (Array.isArray(schema)) return schema.map((each) => this.plain(each));
    const members = membersOf(schema);
    if (!members) return schema;
    const reference = text(members.$ref);
    if (reference !== undefined) return this.referred(reference, members);
    const { nullable, example, examples, xml, externalDocs, discriminator, deprecated, ...rest } = members;
    const all = Object.fromEntries(
      Object.entries(rest)
        .filter(([name]) => !name.startsWith("x-"))
        .map(([name, value]) => [name, keptAsTheyAre.has(name) ? value : this.plain(value)]),
    );
    // bounds that are said to be open are numbers of their own since 3.1
    for (const [open, bound] of [
      ["exclusiveMinimum", "minimum"],
      ["exclusiveMaximum", "maximum"],
    ] as const)
      if (typeof all[open] === "boolean") {
        if (all[open] && all[bound] !== undefined) {
          all[open] = all[bound];
          delete all[bound];
        } else delete all[open];
      }
    if (nullable !== true) return all;
    return typeof all.type === "string" ? { ...all, type: [all.type, "null"] } : { anyOf: [all, { type: "null" }] };
  }

  private referred(reference: string, members: Members): Json {
    const target = at(this.root, reference);
    if (target === undefined) {
      this.lack(`${reference}, which is not in the document`);
      return {};
    }
    const name = argumentName(reference.split("/").at(-1) ?? "schema");
    if (!(name in this.definitions)) {
      // it may refer to itself
      this.definitions[name] = {};
      this.definitions[name] = this.plain(target);
    }
    const description = text(members.description);
    return { $ref: `#/$defs/${name}`, ...(description === undefined ? {} : { description }) };
  }
}

/** Members of a schema whose values are no schemas. */
const keptAsTheyAre = new Set(["enum", "const", "default", "required"]);

/** The body of a call: members of an object become arguments, all else is one that is called `body`. */
function bodyOf(root: Members, operation: Members, taken: Taken): Json | undefined {
  const request = membersOf(resolved(root, operation.requestBody ?? null));
  if (!request) return undefined;
  const content = membersOf(request.content) ?? {};
  const type = Object.keys(content).find((each) => /^application\/(?:[\w.-]+\+)?json\b/i.test(each));
  const schema = membersOf(content[type ?? ""])?.schema;
  if (type === undefined || schema === undefined) {
    if (request.required === true) taken.lack("a body that is not JSON");
    return undefined;
  }
  const members = membersOf(resolved(root, schema));
  const properties = membersOf(members?.properties);
  const isPlain = properties && !members?.allOf && !members?.oneOf && !members?.anyOf;
  if (!isPlain || Object.keys(properties).some((name) => taken.has(name))) {
    const argument = taken.add("body", schema, { isRequired: request.required === true });
    return `{${argument}}`;
  }
  const required = list(members?.required);
  return Object.fromEntries(
    Object.entries(properties).map(([name, each]) => {
      const isRequired = request.required === true && required.includes(name);
      return [name, `{${taken.add(name, each, { isRequired })}}`];
    }),
  );
}

/** The headers by which an operation says who calls: each names the variable of its credential. */
function headersFor(root: Members, operation: Members, taken: Taken): Operation["headers"] {
  const wanted = list(operation.security ?? root.security);
  const schemes = membersOf(membersOf(root.components)?.securitySchemes) ?? {};
  // one of several is enough, and an empty one wants none
  const [first] = wanted;
  if (wanted.some((each) => Object.keys(membersOf(each) ?? {}).length === 0)) return [];
  return Object.keys(membersOf(first ?? null) ?? {}).flatMap((name) => {
    const scheme = membersOf(resolved(root, schemes[name] ?? null));
    const variable = `$${variableName(name)}`;
    if (scheme?.type === "http" && /^bearer$/i.test(text(scheme.scheme) ?? ""))
      return [{ name: "Authorization", value: `Bearer ${variable}` }];
    if (scheme?.type === "apiKey" && scheme.in === "header" && text(scheme.name))
      return [{ name: text(scheme.name) ?? "", value: variable }];
    if (scheme?.type === "oauth2" || scheme?.type === "openIdConnect")
      return [{ name: "Authorization", value: `Bearer ${variable}` }];
    taken.lack(`the credential ${name}`);
    return [];
  });
}

function variableName(scheme: string): string {
  const plain = scheme
    .replace(/([a-z])([A-Z])/g, "$1_$2")
    .replace(/\W+/g, "_")
    .toUpperCase();
  return /^[A-Z_]/.test(plain) ? plain : `_${plain}`;
}

/** A name as tools and their arguments have it, unlike those before it. */
function freeName(wanted: string, names: Set<string>): string {
  const plain = argumentName(wanted);
  let name = plain;
  for (let number = 2; names.has(name); number += 1) name = `${plain.slice(0, 60)}_${number}`;
  names.add(name);
  return name;
}

function argumentName(wanted: string): string {
  const plain = wanted.replace(/[^\w-]+/g, "_").replace(/^_+|_+$/g, "") || "x";
  const name = /^[A-Za-z_]/.test(plain) ? plain : `_${plain}`;
  return toolName.test(name) ? name : name.slice(0, 64);
}

/** What a reference leads to, through others; the value itself where it is none. */
function resolved(root: Members, value: Json): Json {
  let found: Json | undefined = value;
  for (let steps = 0; steps < 10; steps += 1) {
    const reference: string | undefined = text(membersOf(found ?? null)?.$ref);
    if (reference === undefined) return found ?? null;
    found = at(root, reference);
  }
  return null;
}

/** What stands at a reference into the document itself (RFC 6901): nothing is fetched. */
function at(root: Members, reference: string): Json | undefined {
  if (!reference.startsWith("#/")) return undefined;
  let found: Json | undefined = root;
  for (const step of reference.slice(2).split("/")) {
    const name = decoded(step).replaceAll("~1", "/").replaceAll("~0", "~");
    const members: Members | undefined = membersOf(found ?? null);
    found = members && Object.hasOwn(members, name) ? members[name] : undefined;
  }
  return found;
}

function decoded(step: string): string {
  try {
    return decodeURIComponent(step);
  } catch {
    return step;
  }
}

function addressOf(server: string, from: string | undefined): string | undefined {
  if (!URL.canParse(server, from)) return undefined;
  const address = new URL(server, from);
  return /^https?:$/.test(address.protocol) ? address.href : undefined;
}

function membersOf(value: Json | undefined): Members | undefined {
  return typeof value === "object" && value !== null && !Array.isArray(value) ? value : undefined;
}

function list(value: Json | undefined): Json[] {
  return Array.isArray(value) ? value : [];
}

function text(value: Json | undefined): string | undefined {
  return typeof value === "string" ? value : undefined;
}
