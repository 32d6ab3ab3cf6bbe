import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, type Steps, same } from "./finding";
import { isCalled, lastName, names } from "./naming";

/** A place of which several events tell, with what stood there each time. */
export interface Series {
  /** The JSONPath. */
  path: string;
  steps: Steps;
  /** The name of the events, where all of them have the same. */
  event: string;
  values: string[];
  /** The numbers of the events. */
  at: number[];
  /** What the events say of their kind, where those of other kinds have something else at this place. */
  kind?: { steps: Steps; is: string[] } | { steps: Steps; isNot: string[] };
}

/** What has to hold of an event, so that it tells of a series. @param isAlone whether all events have the same name */
export function whenOf({ event, kind }: Series, isAlone: boolean): Rule["when"] {
  const named = isAlone || event === "" ? {} : { event };
  const one = (words: string[]) => (words.length === 1 ? (words[0] as string) : words);
  const at = kind && pathTo(kind.steps);
  if (kind && "is" in kind) return { ...named, at, is: one(kind.is) };
  if (kind) return { ...named, not: { at, is: one(kind.isNot) } };
  return "event" in named ? named : undefined;
}

/** The texts at each place, over all events that have one there. Lists whose elements say their kind are read through a filter. */
export function seriesOf(events: readonly Event[]): Series[] {
  const all = new Map<string, Series>();
  for (const [at, { name, document, leaves }] of events.entries())
    for (const { steps, value } of leaves) {
      if (typeof value !== "string" || isEarlierMessage(document, steps)) continue;
      const path = generalPath(document, steps);
      const key = `${name} ${path}`;
      const series = all.get(key) ?? { path, steps, event: name, values: [], at: [] };
      if (series.at.at(-1) === at) series.values[series.values.length - 1] += value;
      else {
        series.values.push(value);
        series.at.push(at);
      }
      all.set(key, series);
    }
  return [...all.values()].flatMap((series) => byKind(events, series));
}

/**
 * A series as several, where its events say of what kind they are, and some of them are thoughts, or say once more what
 * the others said.
 */
function byKind(events: readonly Event[], series: Series): Series[] {
  const first = events[series.at[0] as number] as Event;
  const kinds = first.leaves.filter(
    ({ steps, value }) =>
      typeof value === "string" &&
      isCalled(lastName(steps), names.kind) &&
      steps.slice(0, -1).every((step, place) => series.steps[place] === step) &&
      !same(steps, series.steps),
  );
  for (const { steps } of kinds) {
    const words = series.at.map((at) => (events[at] as Event).leaves.find((leaf) => same(leaf.steps, steps))?.value);
    if (!words.every((word) => typeof word === "string")) continue;
    const of = (isIn: (word: string) => boolean): Series => {
      const places = [...series.at.keys()].filter((place) => isIn(words[place] as string));
      return {
        ...series,
        values: places.map((place) => series.values[place] as string),
        at: places.map((place) => series.at[place] as number),
      };
    };
    const all = [...new Set(words as string[])];
    if (all.length < 2) continue;
    const isThought = (word: string) => word.split(/[^\p{L}\p{N}]+/u).some((part) => isCalled(part, names.thought));
    const isRepeated = (word: string) => {
      const own = of((each) => each === word);
      const others = of((each) => each !== word && !isThought(each));
      return own.values.length === 1 && others.values.length > 1 && own.values[0] === textOf(others);
    };
    const apart = all.filter((word) => isThought(word) || isRepeated(word));
    if (apart.length === 0 || apart.length === all.length) continue;
    return [
      { ...of((word) => !apart.includes(word)), kind: { steps, isNot: apart } },
      ...apart.map((word) => ({ ...of((each) => each === word), kind: { steps, is: [word] } })),
    ];
  }
  return [series];
}

/** A way to a leaf as a path that holds for the elements beside it too. */
export function generalPath(document: unknown, steps: Steps): string {
  let path = "$";
  let value = document;
  for (const [place, step] of steps.entries()) {
    const owner = value;
    value = (value as Record<string | number, unknown>)[step];
    if (typeof step !== "number" || !Array.isArray(owner)) path += pathTo([step]).slice(1);
    else if (isTakes(owner)) path += "[0]";
    else if (isTalk(owner)) path += step === owner.length - 1 ? "[-1]" : `[${step}]`;
    else {
      const kind = kindOf(value);
      const isLeaf = place === steps.length - 1;
      path += kind ? `[?@.${kind[0]} == ${JSON.stringify(kind[1])}]` : isLeaf ? `[${step}]` : "[*]";
    }
  }
  return path;
}

/** Whether a list is a whole conversation: messages of which more than one speaks. */
function isTalk(list: readonly unknown[]): boolean {
  const roles = list.map((each) => {
    const entries = typeof each === "object" && each !== null ? Object.entries(each) : [];
    return entries.find(([name, value]) => isCalled(name, names.role) && typeof value === "string")?.[1] as string;
  });
  return roles.every((role) => role !== undefined) && new Set(roles).size > 1;
}

/** Whether a leaf stands in a message before the last of a conversation: an answer may say again all that was sent. */
function isEarlierMessage(document: unknown, steps: Steps): boolean {
  let value = document;
  for (const step of steps) {
    if (Array.isArray(value) && step !== value.length - 1 && isTalk(value)) return true;
    value = (value as Record<string | number, unknown>)[step];
  }
  return false;
}

/** Whether the elements of a list are takes of one reply: each has a small number of its own, and none says of what kind it is. */
function isTakes(list: readonly unknown[]): boolean {
  return list.every(
    (each) =>
      typeof each === "object" &&
      each !== null &&
      Number.isInteger((each as { index?: unknown }).index) &&
      !kindOf(each),
  );
}

/** The member of an element that says of what kind it is. */
export function kindOf(element: unknown): [name: string, value: string] | undefined {
  if (typeof element !== "object" || element === null || Array.isArray(element)) return undefined;
  return Object.entries(element).find(
    (each): each is [string, string] => isCalled(each[0], names.kind) && typeof each[1] === "string",
  );
}

/** How many texts of other takes may come between two of one. */
const between = 8;

/** Whether each text begins as one before it did, and goes on: all so far at each time. One that comes late, twice or of another take is no other text. */
export function growsSoFar({ values }: Series): boolean {
  const said = values.filter((value) => value !== "");
  const goesOn = (value: string, at: number) =>
    said
      .slice(Math.max(0, at - between), at)
      .some((before) => value.length > before.length && value.startsWith(before));
  const grown = said.filter(goesOn);
  const longest = Math.max(0, ...said.map(({ length }) => length));
  const all = said.reduce((sum, { length }) => sum + length, 0);
  return said.length > 1 && grown.length >= (said.length - 1) * 0.6 && all > longest * 1.3;
}

/** All that a series says. */
export function textOf(series: Series): string {
  if (!growsSoFar(series)) return series.values.join("");
  return series.values.reduce((longest, value) => (value.length > longest.length ? value : longest), "");
}
