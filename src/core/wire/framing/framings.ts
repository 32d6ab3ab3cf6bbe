import { array } from "./array";
import type { Framing } from "./framing";
import { json } from "./json";
import { ndjson } from "./ndjson";
import { sequence } from "./sequence";
import { sse } from "./sse";
import { text } from "./text";

/** Every framing by its name in a profile, in the order in which a body is looked at. */
export const framings = { sequence, sse, json, ndjson, array, text } satisfies Record<string, Framing>;
export type FramingName = keyof typeof framings;

/** All names, for schemas. */
export const framingNames = Object.keys(framings) as [FramingName, ...FramingName[]];

/** A framing by its name. */
export function framingOf(name: FramingName): Framing {
  return framings[name];
}

/** The framing that a whole body looks like. */
export function framingIn(body: string): FramingName {
  return framingNames.find((name) => framingOf(name).isIn(body)) ?? "text";
}
