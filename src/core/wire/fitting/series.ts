import { pathTo } from "../path";
import type { Event, Steps } from "./finding";
import { isCalled, names } from "./naming";

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
}

/** The texts at each place, over all events that have one there. Lists whose elements say their kind are read through a filter. */
export function seriesOf(events: readonly Event[]): Series[] {
  const all = new Map<string, Series>();
  for (const [at, { name, document, leaves }] of events.entries())
    for (const { steps, value } of leaves) {
      if (typeof value !== "string") continue;
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
    else if (isTakes(owner)) path += "[0]";
    else {
      const kind = kindOf(value);
      const isLeaf = place === steps.length - 1;
      path += kind ? `[?@.${kind[0]} == ${JSON.stringify(kind[1])}]` : isLeaf ? `[${step}]` : "[*]";
    }
  }
  return path;
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
    said.slice(Math.max(0, at - between), at).some((before) => value.length > before.length && value.startsWith(before));
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
