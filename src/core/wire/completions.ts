import { getLocation, parseTree } from "jsonc-parser";

/** A JSON Schema, as far as completing asks for it. */
export interface SchemaNode {
  description?: string;
  properties?: Record<string, SchemaNode>;
  additionalProperties?: SchemaNode | boolean;
  items?: SchemaNode;
  anyOf?: SchemaNode[];
  oneOf?: SchemaNode[];
  enum?: unknown[];
  const?: unknown;
  type?: string | string[];
}

/** What can stand at a place of a JSON text. */
export interface Completions {
  /** Where what is begun there begins. */
  from: number;
  /** As they are written, each with what it means. */
  options: { text: string; says?: string }[];
}

/** What can be written at a place of a JSON text, by its schema: the names of members, or values of which there are few. */
export function completionsAt(schema: SchemaNode, text: string, offset: number): Completions | undefined {
  const { path, isAtPropertyKey, previousNode } = getLocation(text, offset);
  const isInside = previousNode !== undefined && previousNode.offset <= offset && offset <= end(previousNode);
  const from = isInside ? previousNode.offset : offset;
  const nodes = path
    .slice(0, isAtPropertyKey ? -1 : undefined)
    .reduce<SchemaNode[]>((above, step) => above.flatMap((node) => childrenOf(node, step)), [schema]);
  const options = isAtPropertyKey ? membersOf(nodes, text, path.slice(0, -1), path.at(-1)) : valuesOf(nodes);
  return options.length > 0 ? { from, options } : undefined;
}

function end({ offset, length }: { offset: number; length: number }): number {
  return offset + length;
}

/** A node with all that it may be instead. */
function alternativesOf(node: SchemaNode): SchemaNode[] {
  return [node, ...[...(node.anyOf ?? []), ...(node.oneOf ?? [])].flatMap(alternativesOf)];
}

function childrenOf(node: SchemaNode, step: string | number): SchemaNode[] {
  return alternativesOf(node).flatMap(({ properties, additionalProperties, items }) => {
    if (typeof step === "number") return items ? [items] : [];
    const named = properties && Object.hasOwn(properties, step) ? properties[step] : undefined;
    if (named) return [named];
    return typeof additionalProperties === "object" ? [additionalProperties] : [];
  });
}

/** The members that an object does not have yet. */
function membersOf(
  nodes: readonly SchemaNode[],
  text: string,
  path: (string | number)[],
  begun: string | number | undefined,
): Completions["options"] {
  const there = namesAt(text, path);
  const all = new Map<string, string | undefined>();
  for (const { properties = {} } of nodes.flatMap(alternativesOf))
    for (const [name, { description }] of Object.entries(properties))
      if (name === begun || !there.has(name)) all.set(name, description);
  return [...all].map(([name, says]) => ({ text: JSON.stringify(name), says }));
}

function namesAt(text: string, path: (string | number)[]): Set<string> {
  let node = parseTree(text);
  for (const step of path) {
    const child = node?.children?.find((each, at) =>
      typeof step === "number" ? at === step : each.children?.[0]?.value === step,
    );
    node = typeof step === "number" ? child : child?.children?.[1];
  }
  return new Set(node?.children?.map(({ children }) => String(children?.[0]?.value)) ?? []);
}

function valuesOf(nodes: readonly SchemaNode[]): Completions["options"] {
  const all = new Set<string>();
  for (const node of nodes.flatMap(alternativesOf)) {
    for (const value of node.enum ?? []) all.add(JSON.stringify(value));
    if (node.const !== undefined) all.add(JSON.stringify(node.const));
    if (node.type === "boolean") for (const value of ["true", "false"]) all.add(value);
  }
  return [...all].map((text) => ({ text }));
}
