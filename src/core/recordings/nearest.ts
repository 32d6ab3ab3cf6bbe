import { isDeeperThan, type Json } from "../wire/json";
import type { RecordedCall, Recording, Slot } from "./recording";

/** A place in which two calls differ: a JSONPath (RFC 9535), and what stands there in each; undefined where nothing does. */
export interface Difference {
  path: string;
  was: Json | undefined;
  is: Json | undefined;
}

/** Recordings that are held against a call that has none. */
const mostHeld = 200;
/** Levels of a body that are gone through. */
const deepest = 60;

/** The recording that is most like a call, of the same place if there is one, and where the two differ. */
export function nearestOf(
  recordings: readonly Recording[],
  call: RecordedCall,
  slot: Slot,
): { recording: Recording; differences: Difference[] } | undefined {
  const here = recordings.filter(({ of }) => of.check === slot.check && of.trial === slot.trial);
  const held = (here.length > 0 ? here : recordings).slice(0, mostHeld);
  let nearest: { recording: Recording; differences: Difference[]; weight: number } | undefined;
  for (const recording of held) {
    const differences = differencesOf(recording.call, call);
    const weight = differences.reduce((sum, each) => sum + weightOf(each), 0);
    if (!nearest || weight < nearest.weight) nearest = { recording, differences, weight };
  }
  return nearest && { recording: nearest.recording, differences: nearest.differences };
}

/** Where two calls differ, in the order of the second. */
export function differencesOf(was: RecordedCall, is: RecordedCall): Difference[] {
  const found: Difference[] = [];
  for (const name of ["provider", "model", "method", "path"] as const)
    if (was[name] !== is[name]) found.push({ path: `$.${name}`, was: was[name], is: is[name] });
  if (isDeeperThan(was.body, deepest) || isDeeperThan(is.body, deepest)) {
    if (JSON.stringify(was.body) !== JSON.stringify(is.body)) found.push({ path: "$.body", was: null, is: null });
  } else compare("$.body", was.body, is.body, found);
  return found;
}

function compare(path: string, was: Json | undefined, is: Json | undefined, found: Difference[]): void {
  if (Array.isArray(was) && Array.isArray(is)) {
    for (let at = 0; at < Math.max(was.length, is.length); at += 1) compare(`${path}[${at}]`, was[at], is[at], found);
  } else if (isObject(was) && isObject(is)) {
    for (const name of new Set([...Object.keys(is), ...Object.keys(was)]))
      compare(`${path}${/^[A-Za-z_]\w*$/.test(name) ? `.${name}` : `['${name}']`}`, was[name], is[name], found);
  } else if (was !== is) found.push({ path, was, is });
}

function isObject(value: Json | undefined): value is { [name: string]: Json } {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** How much a difference is: the characters that are not the same from the front and from the back. */
function weightOf({ was, is }: Difference): number {
  const [a, b] = [textOf(was), textOf(is)];
  const [from, behind] = sharedEnds(a, b);
  return 1 + Math.max(a.length, b.length) - from - behind;
}

/** Characters of the part of a text that is shown. */
const shown = 60;

/** A difference in words: `$.body.messages[0].content: “five sentences” became “three sentences”`. */
export function wordsOfDifference({ path, was, is }: Difference): string {
  if (was === undefined) return `${path} is new: ${cut(textOf(is), 0)}`;
  if (is === undefined) return `${path} is gone: ${cut(textOf(was), 0)}`;
  const [a, b] = [textOf(was), textOf(is)];
  const from = Math.max(sharedEnds(a, b)[0] - 12, 0);
  return `${path}: ${cut(a, from)} became ${cut(b, from)}`;
}

function textOf(value: Json | undefined): string {
  return typeof value === "string" ? value : value === undefined ? "" : JSON.stringify(value);
}

function cut(text: string, from: number): string {
  const part = text.slice(from, from + shown);
  return `“${from > 0 ? "…" : ""}${part}${from + shown < text.length ? "…" : ""}”`;
}

/** How many characters two texts share at their beginnings, and how many of the others at their ends. */
function sharedEnds(a: string, b: string): [from: number, behind: number] {
  const most = Math.min(a.length, b.length);
  let from = 0;
  while (from < most && a[from] === b[from]) from += 1;
  let behind = 0;
  while (behind < most - from && a.at(-1 - behind) === b.at(-1 - behind)) behind += 1;
  return [from, behind];
}
