import type { Offered } from "../../tools/tool";
import { pathTo } from "../path";
import { at, isProse, type Leaf, leavesOf, type Notes, type Steps, set } from "./finding";
import { isCalled, lastName, names } from "./naming";
import { isTaken } from "./talk";

/** The tools that a pasted request offers, and the schema that it asks for. */
export interface FittedOffers {
  tools?: Offered[];
  schema?: unknown;
}

/** Puts placeholders in the places of tools and of a schema, which are known by what they hold. */
export function fitOffers(document: unknown, taken: Set<string>, notes: Notes): FittedOffers {
  const offers: FittedOffers = {};
  fitTools(document, taken, offers, notes);
  fitSchema(document, taken, offers, notes);
  return offers;
}

/** A list each of whose elements has a name and a JSON Schema of what it is given. */
function fitTools(document: unknown, taken: Set<string>, offers: FittedOffers, notes: Notes): void {
  for (const { steps, list } of objectListsIn(document)) {
    const tools = list.map(toolIn);
    const last = tools.at(-1);
    if (!last || tools.some((tool) => tool === undefined) || isTaken(steps, taken)) continue;
    offers.tools = tools.map((tool) => (tool as ReadTool).offered);
    const template = structuredClone(list.at(-1));
    set(template, last.name, "<name>");
    if (last.description) set(template, last.description, "<description>");
    set(template, last.parameters, "<parameters>");
    set(document, steps, { "<each>": "tools", as: template });
    taken.add(pathTo(steps));
    notes.found("request", "tools", pathTo(steps), last.isNamed ? "sure" : "likely");
    notes.missing.push(
      "How calls of tools and their answers go back: the request shows none. Without a place for them in the messages a conversation with tools can't be gone on with.",
    );
    return;
  }
}

interface ReadTool {
  name: Steps;
  description?: Steps;
  parameters: Steps;
  /** Whether its parts are called by the usual words, and not known by their place alone. */
  isNamed: boolean;
  offered: Offered;
}

function toolIn(element: unknown): ReadTool | undefined {
  const parameters = schemasIn(element)[0];
  const leaves = leavesOf(element).filter(({ steps }) => !parameters || !startsWith(steps, parameters.steps));
  const isWord = ({ steps, value }: Leaf) =>
    typeof value === "string" && /^[A-Za-z_][\w.-]{0,63}$/.test(value) && !isCalled(lastName(steps), names.kind);
  const words = leaves.filter(isWord);
  const named = words.find(({ steps }) => isCalled(lastName(steps), /^name$/));
  const name = named ?? (words.length === 1 ? words[0] : undefined);
  if (!parameters || !name) return undefined;
  const texts = leaves.filter(
    (leaf): leaf is Leaf & { value: string } => leaf !== name && typeof leaf.value === "string",
  );
  const description =
    texts.find(({ steps }) => isCalled(lastName(steps), names.description)) ??
    texts.find(({ value }) => isProse(value));
  return {
    name: name.steps,
    parameters: parameters.steps,
    isNamed: named !== undefined,
    ...(description ? { description: description.steps } : {}),
    offered: {
      name: String(name.value),
      description: description?.value ?? "",
      parameters: parameters.schema as Offered["parameters"],
    },
  };
}

/** A JSON Schema that is no tool's: what a reply has to satisfy. All of the member that holds it goes where none is asked for. */
function fitSchema(document: unknown, taken: Set<string>, offers: FittedOffers, notes: Notes): void {
  const found = schemasIn(document).find(
    // in a list it is one of several, as tools have them
    ({ steps }) => steps.length > 0 && steps.every((step) => typeof step === "string") && !isTaken(steps, taken),
  );
  if (!found) return;
  offers.schema = structuredClone(found.schema);
  set(document, found.steps, "<schema>");
  const owner = found.steps.slice(0, 1);
  if (found.steps.length > 1) set(document, owner, { "<if>": "schema", as: at(document, owner) });
  taken.add(pathTo(owner));
  notes.found("request", "schema", pathTo(found.steps), "sure");
}

function startsWith(steps: Steps, beginning: Steps): boolean {
  return beginning.every((step, place) => steps[place] === step);
}

function objectListsIn(document: unknown, steps: Steps = []): { steps: Steps; list: object[] }[] {
  if (Array.isArray(document)) {
    const own = document.length > 0 && document.every((each) => typeof each === "object" && each !== null);
    return [
      ...(own ? [{ steps, list: document as object[] }] : []),
      ...document.flatMap((each, place) => objectListsIn(each, [...steps, place])),
    ];
  }
  if (typeof document !== "object" || document === null) return [];
  return Object.entries(document).flatMap(([name, each]) => objectListsIn(each, [...steps, name]));
}

/** The outermost objects that are JSON Schemas of an object. */
function schemasIn(document: unknown, steps: Steps = []): { steps: Steps; schema: object }[] {
  if (Array.isArray(document)) return document.flatMap((each, place) => schemasIn(each, [...steps, place]));
  if (typeof document !== "object" || document === null) return [];
  const { type, properties } = document as { type?: unknown; properties?: unknown };
  const isSchema =
    typeof type === "string" && /^object$/i.test(type) && typeof properties === "object" && properties !== null;
  if (isSchema) return [{ steps, schema: document }];
  return Object.entries(document).flatMap(([name, each]) => schemasIn(each, [...steps, name]));
}
