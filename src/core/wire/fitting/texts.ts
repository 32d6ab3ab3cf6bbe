import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import {
  type Event,
  type FittedTexts,
  isNamed,
  kindNames,
  type Notes,
  type Steps,
  same,
  thoughtNames,
} from "./finding";
import { fitSlots } from "./slots";

/** A place of which several events tell, with what stood there each time. */
interface Series {
  /** The JSONPath. */
  path: string;
  steps: Steps;
  /** The name of the events, where all of them have the same. */
  event: string;
  values: string[];
  /** The numbers of the events. */
  at: number[];
}

/** Adds a rule, joined to one that goes without conditions. */
export function addTo(rules: Rule[], rule: Rule): void {
  const joins = rules.find(
    (each) =>
      !each.when && !each.each && !each.soFar && !each.block && Object.keys(rule).every((name) => !(name in each)),
  );
  if (joins) Object.assign(joins, rule);
  else rules.push(rule);
}

export function fitTexts(events: Event[], notes: Notes): FittedTexts {
  const slots = fitSlots(events, notes);
  if (slots) return slots;
  const candidates = seriesOf(events).filter(saysSomething);
  const thoughts = candidates.filter(isThought);
  const texts = candidates.filter((each) => !isThought(each)).sort((a, b) => textScore(b) - textScore(a));
  const text = texts[0];
  const rules: Rule[] = [];
  const textPaths = new Set<string>();
  if (!text) {
    notes.missing.push("The text: nothing in this answer reads like what a model says.");
    return { rules, textPaths, lastText: -1 };
  }
  const rival = texts.find(
    (each) => each !== text && textScore(each) > textScore(text) * 0.8 && !sameWords(each, text),
  );
  notes.found("answer", growsSoFar(text) ? "text, all so far" : "text", text.path, rival ? "likely" : "sure");
  if (rival)
    notes.missing.push(`Whether the text stands at ${text.path} or at ${rival.path}: the longer one was taken.`);
  const take = takeOf(events, text);
  rules.push(ruleOf(events, "text", text, take));
  if (take) notes.found("answer", "which take", pathTo(take), "likely");
  textPaths.add(text.path);
  const thought = thoughts.sort((a, b) => textScore(b) - textScore(a))[0];
  if (thought) {
    notes.found("answer", "thought", thought.path, "sure");
    textPaths.add(thought.path);
    const rule = ruleOf(events, "thought", thought, undefined);
    if (rule.when || rule.soFar) rules.push(rule);
    else addTo(rules, rule);
  }
  return { rules, textPaths, lastText: Math.max(...text.at) };
}

function ruleOf(events: Event[], what: "text" | "thought", series: Series, take: Steps | undefined): Rule {
  const isAlone = new Set(events.map(({ name }) => name)).size === 1;
  return {
    ...(isAlone || series.event === "" ? {} : { when: { event: series.event } }),
    ...(take ? { take: pathTo(take) } : {}),
    [what]: series.path,
    ...(growsSoFar(series) ? { soFar: true } : {}),
  };
}

/** The strings at each place, over all events that have one there. Lists whose elements say their kind are read through a filter. */
function seriesOf(events: Event[]): Series[] {
  const all = new Map<string, Series>();
  for (const [at, { name, document, leaves }] of events.entries())
    for (const { steps, value } of leaves) {
      if (typeof value !== "string") continue;
      const path = generalPath(document, steps);
      const key = `${name} ${path}`;
      const series = all.get(key) ?? { path, steps, event: name, values: [], at: [] };
      const isSame = series.at.at(-1) === at;
      if (isSame) series.values[series.values.length - 1] += value;
      else {
        series.values.push(value);
        series.at.push(at);
      }
      all.set(key, series);
    }
  return [...all.values()];
}

/** A way to a leaf as a path that holds for the elements beside it too. */
function generalPath(document: unknown, steps: Steps): string {
  let path = "$";
  let value = document;
  for (const [place, step] of steps.entries()) {
    const owner = value;
    value = (value as Record<string | number, unknown>)[step];
    if (typeof step !== "number" || !Array.isArray(owner)) path += pathTo([step]).slice(1);
    else if (steps.slice(0, place).at(-1) === "choices") path += "[0]";
    else {
      const kind = kindOf(value);
      const isLeaf = place === steps.length - 1;
      path += kind ? `[?@.${kind[0]} == ${JSON.stringify(kind[1])}]` : isLeaf ? `[${step}]` : "[*]";
    }
  }
  return path;
}

/** The member of an element that says of what kind it is. */
function kindOf(element: unknown): [name: string, value: string] | undefined {
  if (typeof element !== "object" || element === null || Array.isArray(element)) return undefined;
  return Object.entries(element).find(
    (each): each is [string, string] => kindNames.test(each[0]) && typeof each[1] === "string",
  );
}

function saysSomething({ values, path }: Series): boolean {
  const all = values.join("");
  if (!/\p{L}/u.test(all) || /(?:^|\.)(?:id|ref|object|created|role)$/.test(path)) return false;
  const isConstant = values.length > 1 && new Set(values).size === 1;
  return !isConstant && (/\s/.test(all.trim()) || values.length > 2);
}

function isThought({ path, event }: Series): boolean {
  return isNamed([...path.split(/[^\p{L}\p{N}_]+/u), event], thoughtNames);
}

function textScore(series: Series): number {
  const { values } = series;
  const text = growsSoFar(series) ? (values.at(-1) ?? "") : values.join("");
  return (
    text.length *
    (/\s/.test(text) ? 4 : 1) *
    (isNamed(series.steps.slice(-1), /^(?:text|content|say|said|words|delta|line|body|message|sofar)$/) ? 1.5 : 1)
  );
}

function growsSoFar({ values }: Series): boolean {
  if (values.length < 2) return false;
  const grown = values.filter(
    (value, at) => at > 0 && values.slice(0, at).some((before) => before !== "" && value.startsWith(before)),
  );
  return grown.length >= (values.length - 1) * 0.6 && values.join("").length > (values.at(-1) ?? "").length * 1.3;
}

function sameWords(a: Series, b: Series): boolean {
  return a.values.join("") === b.values.join("");
}

/** A small number beside the text that takes turns, while the text grows for each of its values by itself. */
function takeOf(events: Event[], text: Series): Steps | undefined {
  const owner = text.steps.slice(0, -1);
  if (owner.some((step) => typeof step === "number")) return undefined;
  const beside = text.at.flatMap((at) =>
    (events[at] as Event).leaves.filter(
      ({ steps, value }) =>
        steps.length === text.steps.length && Number.isInteger(value) && same(steps.slice(0, -1), owner),
    ),
  );
  const names = new Set(beside.map(({ steps }) => String(steps.at(-1))));
  for (const name of names) {
    const values = beside.filter(({ steps }) => steps.at(-1) === name).map(({ value }) => value as number);
    const kinds = new Set(values);
    const turns = values.filter((value, at) => at > 0 && value < (values[at - 1] as number)).length;
    if (
      values.length === text.at.length &&
      kinds.size > 1 &&
      kinds.has(0) &&
      turns > 0 &&
      kinds.size < values.length / 1.5
    )
      return [...owner, name];
  }
  return undefined;
}
