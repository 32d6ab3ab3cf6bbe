import { parseShallow } from "../json";
import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, type Leaf, leavesOf, type Notes, type Steps, at as valueAt } from "./finding";
import { isCalled, lastName, names } from "./naming";

/** Calls of tools in an answer. */
export interface FittedCalls {
  rule: Rule;
  /** The written places in which they stand. */
  paths: Set<string>;
}

/** Finds calls of tools: what has a name of a function, and beside it arguments as a document or as a text that makes one. */
export function fitCalls(events: readonly Event[], notes: Notes): FittedCalls | undefined {
  const named = events.flatMap(({ document, leaves }) =>
    leaves.flatMap((leaf) => (isFunctionName(leaf, document) ? [{ document, leaf }] : [])),
  )[0];
  if (!named) return undefined;
  const owner = named.leaf.steps.slice(0, -1);
  const list = owner.findLastIndex((step) => typeof step === "number");
  const inner = (steps: Steps) => `${list < 0 ? "$" : "@"}${pathTo(list < 0 ? steps : steps.slice(list + 1)).slice(1)}`;
  const argumentSteps = argumentsBeside(events, owner);
  if (!argumentSteps) return undefined;
  const element = list < 0 ? owner : owner.slice(0, list + 1);
  const members = leavesOf(valueAt(named.document, element), element);
  const id = members.find(
    ({ steps, value }) => isCalled(lastName(steps), /^id$|^callid$/) && typeof value === "string",
  );
  const index = members.find(
    ({ steps, value }) =>
      Number.isInteger(value) &&
      steps.length === element.length + 1 &&
      isCalled(lastName(steps), /^(?:index|slot|no|number|block)$/),
  );
  const tool = {
    ...(list < 0 ? {} : { each: `${pathTo(element.slice(0, -1))}[*]` }),
    ...(index ? { block: inner(index.steps) } : {}),
    ...(id ? { id: inner(id.steps) } : {}),
    name: inner(named.leaf.steps),
    arguments: inner(argumentSteps),
  };
  notes.found("answer", "tool call", pathTo(named.leaf.steps), "likely");
  const paths = events.flatMap(({ leaves }) =>
    leaves.filter(({ steps }) =>
      element.slice(0, list < 0 ? undefined : -1).every((step, place) => steps[place] === step),
    ),
  );
  return { rule: { tool }, paths: new Set(paths.map(({ steps }) => generalised(steps))) };
}

/** A way as series write it: each list through all of its elements. */
function generalised(steps: Steps): string {
  return steps.reduce<string>((path, step) => path + (typeof step === "number" ? "[*]" : pathTo([step]).slice(1)), "$");
}

/** A short name beside arguments, or in something that is called a function or a tool. */
function isFunctionName({ steps, value }: Leaf, document: unknown): boolean {
  if (
    typeof value !== "string" ||
    !/^[A-Za-z_][\w.-]{0,63}$/.test(value) ||
    !isCalled(lastName(steps), /^name$|^tool$|^function$/)
  )
    return false;
  const beside = Object.keys((valueAt(document, steps.slice(0, -1)) as object) ?? {});
  return (
    beside.some((name) => isCalled(name, names.arguments)) ||
    steps.some((step) => isCalled(step, /^(?:tools?|functions?|calls?|toolcalls?|functioncall)$/))
  );
}

/** Where arguments stand beside the name, in this event or in a later one: a document, or texts that make one. */
function argumentsBeside(events: readonly Event[], owner: Steps): Steps | undefined {
  const fragments = new Map<string, { steps: Steps; text: string }>();
  for (const { document, leaves } of events) {
    const here = present(document, owner);
    if (typeof here === "object" && here !== null)
      for (const [name, value] of Object.entries(here))
        if (typeof value === "object" && value !== null && isCalled(name, names.arguments)) return [...owner, name];
    for (const { steps, value } of leaves) {
      const isBeside =
        steps.length === owner.length + 1 &&
        owner.every(
          (step, place) => steps[place] === step || (typeof step === "number" && typeof steps[place] === "number"),
        );
      if (typeof value !== "string" || !isBeside || !isCalled(lastName(steps), names.arguments)) continue;
      const key = generalised(steps);
      const before = fragments.get(key) ?? { steps, text: "" };
      fragments.set(key, { steps: before.steps, text: before.text + value });
    }
  }
  return (
    [...fragments.values()].find(({ text }) => typeof parseShallow(text) === "object")?.steps ??
    [...fragments.values()][0]?.steps
  );
}

function present(document: unknown, steps: Steps): unknown {
  return steps.reduce<unknown>(
    (value, step) =>
      typeof value === "object" && value !== null ? (value as Record<string | number, unknown>)[step] : undefined,
    document,
  );
}
