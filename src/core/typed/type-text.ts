type Node = Record<string, unknown>;

/** Levels down to which a type is written. */
const deepest = 20;

/** A JSON Schema as a TypeScript type. What TypeScript can't say, such as a range or a pattern, stands in a comment. */
export function typeText(schema: object, name = "Reply"): string {
  const definitions = (schema as Node).$defs ?? {};
  const own = Object.entries(definitions as Node).map(([key, node]) => declared(typeName(key), node));
  return [declared(name, schema), ...own].join("\n\n");
}

function declared(name: string, node: unknown): string {
  return `${comment(node, "")}export type ${name} = ${typeOf(node, "")};`;
}

function typeOf(node: unknown, indent: string): string {
  if (typeof node !== "object" || node === null) return node === false ? "never" : "unknown";
  if (indent.length > deepest * 2) return "unknown";
  const { $ref, const: fixed, enum: values, anyOf, oneOf, allOf, type } = node as Node;
  if (typeof $ref === "string") return $ref === "#" ? "Reply" : typeName($ref.split("/").at(-1) ?? "");
  if (fixed !== undefined) return JSON.stringify(fixed);
  if (Array.isArray(values)) return united(values.map((value) => JSON.stringify(value)));
  const ways = anyOf ?? oneOf;
  if (Array.isArray(ways)) return united(ways.map((way) => typeOf(way, indent)));
  if (Array.isArray(allOf)) return allOf.map((each) => typeOf(each, indent)).join(" & ");
  if (Array.isArray(type)) return united(type.map((each) => byType(each, node as Node, indent)));
  return byType(type, node as Node, indent);
}

function united(types: string[]): string {
  return [...new Set(types)].join(" | ") || "never";
}

function byType(type: unknown, node: Node, indent: string): string {
  switch (type) {
    case "string":
    case "boolean":
    case "null":
      return type;
    case "integer":
    case "number":
      return "number";
    case "array":
      return arrayOf(node, indent);
    case "object":
      return objectOf(node, indent);
    default:
      return node.properties ? objectOf(node, indent) : node.items ? arrayOf(node, indent) : "unknown";
  }
}

function arrayOf({ items, prefixItems }: Node, indent: string): string {
  if (Array.isArray(prefixItems)) return `[${prefixItems.map((each) => typeOf(each, indent)).join(", ")}]`;
  const each = typeOf(items ?? true, indent);
  return /[|&]/.test(each) && !each.startsWith("{") ? `(${each})[]` : `${each}[]`;
}

function objectOf({ properties = {}, required = [], additionalProperties }: Node, indent: string): string {
  const inner = `${indent}  `;
  const members = Object.entries(properties as Node).map(([name, node]) => {
    const written = /^[A-Za-z_$][\w$]*$/.test(name) ? name : JSON.stringify(name);
    const mark = (required as unknown[]).includes(name) ? "" : "?";
    return `${comment(node, inner)}${inner}${written}${mark}: ${typeOf(node, inner)};\n`;
  });
  if (members.length === 0) return `Record<string, ${typeOf(additionalProperties ?? true, indent)}>`;
  return `{\n${members.join("")}${indent}}`;
}

/** What a node says that its type does not. */
function comment(node: unknown, indent: string): string {
  const { description, format, pattern, minimum, maximum, minLength, maxLength } = (node ?? {}) as Node;
  const said = [description, format, pattern, range(minimum, maximum), range(minLength, maxLength, " letters")];
  const words = said.filter((each): each is string => typeof each === "string" && each !== "");
  if (words.length === 0) return "";
  const text = words.map((each) => each.replace(/[\s.]+$/, "")).join("; ");
  return `${indent}/** ${text.replace(/\*\//g, "* /").replace(/\s+/g, " ")}. */\n`;
}

function range(from: unknown, to: unknown, of = ""): string {
  if (from === undefined) return to === undefined ? "" : `up to ${to}${of}`;
  return to === undefined ? `${from}${of} or more` : `${from} to ${to}${of}`;
}

function typeName(text: string): string {
  const name = text.replace(/[^A-Za-z0-9_$]+(.)?/g, (_all, next: string = "") => next.toUpperCase());
  return name.charAt(0).toUpperCase() + name.slice(1);
}
