import { findNodeAtLocation, getNodePath, getNodeValue, type Node, parseTree } from "jsonc-parser";
import { fill, type WireCall } from "../encode";
import { framingOf } from "../framing/framings";
import { parseShallow } from "../json";
import { answerIn } from "../pasted/answer";
import type { CompiledProfile } from "../profile";
import { type Place, Reading, type Taken } from "../reading/reading";
import { Marked } from "../template";

/** What a marked part is, which says how it is drawn. */
export type Tone = "setting" | "said" | "usage" | "end";

/** A stretch of a text; `mark` says what a profile fills in there, or takes from there. */
export interface Segment {
  text: string;
  mark?: { what: string; tone: Tone };
  /** Where it stands in a pasted text, of which can be said what it is. */
  place?: ChosenPlace;
}

/** A place in a pasted text, and how it stands with what is known of it. */
export interface ChosenPlace {
  where: string;
  standing: "sure" | "likely" | "asked" | "nothing";
}

/** Says how the place of a leaf stands. @param what what was taken there, if anything was */
type PlaceOf = (document: unknown, steps: readonly (string | number)[], what: string | undefined) => ChosenPlace;

const namesOfPlaceholders: Record<string, [what: string, tone: Tone]> = {
  system: ["system prompt", "said"],
  text: ["text", "said"],
  temperature: ["temperature", "setting"],
  topP: ["top-p", "setting"],
  topK: ["top-k", "setting"],
  maxOutput: ["output limit", "setting"],
  stop: ["stop words", "setting"],
};

/** What placeholders that a profile or its provider names itself are called. */
const kinds: Record<string, string> = { value: "value", extra: "secret", own: "setting" };

/** The request that a profile makes of a call, as HTTP text with the parts marked that it fills. */
export function markedRequest(profile: CompiledProfile, call: WireCall, host: string): Segment[] {
  const filled = fill(profile, call, (values) => marking(values, profile));
  const { method, path, headers } = filled.head;
  const body = filled.body();
  const segments: Segment[] = [{ text: `${method} ` }, ...unmark(path), { text: `\nhost: ${host}\n` }];
  for (const [name, value] of Object.entries(headers))
    segments.push({ text: `${name}: ` }, ...unmark(String(value)), { text: "\n" });
  if (body !== undefined) segments.push({ text: "\n" }, ...printed(body, ""));
  return joined(segments);
}

/** Values with each scalar saying what it fills. */
function marking(values: Record<string, unknown>, profile: CompiledProfile): Record<string, unknown> {
  const { system, visitor, app } = profile.source.roles;
  const words = new Map([
    [system, "system prompt"],
    [visitor, "visitor"],
    [app, "app"],
  ]);
  const mark = (name: string, value: unknown): unknown => {
    if (Array.isArray(value)) return name === "stop" ? value : value.map((each) => marking(each, profile));
    if (name === "role") return new Marked(words.get(String(value)) ?? "role", String(value));
    const isScalar = typeof value === "string" || typeof value === "number" || value === true;
    return isScalar ? new Marked(name, value as string) : value;
  };
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [name, mark(name, value)]));
}

function markOf(name: string): NonNullable<Segment["mark"]> {
  const [kind, own] = name.split(":");
  if (own !== undefined) return { what: `${kinds[kind ?? ""] ?? kind} ${own}`, tone: "setting" };
  const [what, tone] = namesOfPlaceholders[name] ?? [name, "setting"];
  return { what, tone };
}

/** A string in which values were written between marks. */
function unmark(text: string): Segment[] {
  return text.split(/(\uE000[^\uE001]*\uE001[^\uE002]*\uE002)/).flatMap((part): Segment[] => {
    const match = /^\uE000([^\uE001]*)\uE001([^\uE002]*)\uE002$/.exec(part);
    if (match) return [{ text: match[2] ?? "", mark: markOf(match[1] ?? "") }];
    return part === "" ? [] : [{ text: part }];
  });
}

const lineWidth = 72;

/** A document as JSON, short parts on one line. */
export function printed(value: unknown, indent: string): Segment[] {
  if (value instanceof Marked) return [{ text: JSON.stringify(value.value), mark: markOf(value.name) }];
  if (typeof value === "string") return unmark(JSON.stringify(value)).map((each) => (each.mark ? { ...each } : each));
  if (typeof value !== "object" || value === null) return [{ text: JSON.stringify(value) }];
  const isList = Array.isArray(value);
  const [open, close] = isList ? "[]" : "{}";
  const entries = Object.entries(value);
  const parts = (inner: string) =>
    entries.map(([name, each]) => [
      ...(isList ? [] : [{ text: `${JSON.stringify(name)}: ` }]),
      ...printed(each, inner),
    ]);
  const short = parts(indent);
  const length = short.flat().reduce((sum, { text, mark }) => sum + text.length + (mark ? mark.what.length : 0), 0);
  if (entries.length === 0) return [{ text: `${open}${close}` }];
  if (length <= lineWidth && !short.flat().some(({ text }) => text.includes("\n")))
    return [
      { text: `${open} ` },
      ...short.flatMap((part, at) => (at === 0 ? part : [{ text: ", " }, ...part])),
      { text: ` ${close}` },
    ];
  const inner = `${indent}  `;
  return [
    { text: `${open}\n` },
    ...parts(inner).flatMap((part, at) => [
      { text: inner },
      ...part,
      { text: at === entries.length - 1 ? "\n" : ",\n" },
    ]),
    { text: `${indent}${close}` },
  ];
}

/** Events of one kind that are shown of a long stream, and events that are all shown. */
const shownOfKind = 2;
const shownAlways = 8;

/**
 * An answer with the parts marked that a profile takes from it; a long stream is shown by some events of each kind.
 * @param placeOf where given, each leaf is a place of which can be said what it is
 */
export function markedAnswer(profile: CompiledProfile, body: string, placeOf?: PlaceOf): Segment[] {
  const { framing, frames } = answerIn(body);
  if (framing === "text")
    return [{ text: body, mark: profile.stream?.framing === "text" ? { what: "text", tone: "said" } : undefined }];
  const rules = (framing === "json" ? profile.whole?.rules : profile.stream?.rules) ?? profile.whole?.rules ?? [];
  let told: [Taken, Place | undefined][] = [];
  const reading = new Reading(profile, undefined, (...taken) => told.push(taken));
  const { around } = framingOf(framing);
  const marked = frames.map((frame): Segment[] => {
    const [before, after] = around(frame);
    const data = framing === "json" ? tidy(frame.data) : frame.data.trim();
    told = [];
    // what is no JSON, or is nested too deep to be shown, stands as it is
    const isReadable = data === profile.stream?.end.sentinel || parseShallow(data) !== undefined;
    if (isReadable && !reading.ended) reading.read(rules, { ...frame, data }, []);
    return [{ text: before }, ...markedFrame(data, told, placeOf), { text: after }];
  });
  return joined(thinned(marked, around({ name: "", data: "" })[1]));
}

/** The events of a stream, of a long one only some of each kind and the last; what is left out is counted. */
function thinned(events: Segment[][], between: string): Segment[] {
  if (events.length <= shownAlways) return events.flat();
  const seen = new Map<string, number>();
  const segments: Segment[] = [];
  let left = 0;
  const tellLeft = () => {
    if (left > 0) segments.push({ text: `… ${left} more${between}` });
    left = 0;
  };
  for (const [at, event] of events.entries()) {
    const kind = event.map(({ mark }) => mark?.what ?? "").join(" ");
    const count = (seen.get(kind) ?? 0) + 1;
    seen.set(kind, count);
    if (count <= shownOfKind || at === events.length - 1) {
      tellLeft();
      segments.push(...event);
    } else left += 1;
  }
  return segments;
}

function tidy(data: string): string {
  const document = parseShallow(data);
  return document === undefined || data.length < 90 ? data : JSON.stringify(document, undefined, 2);
}

interface Stretch extends Omit<Segment, "text"> {
  from: number;
  to: number;
}

/** The data of an event with what was taken from it marked. */
function markedFrame(data: string, told: readonly [Taken, Place | undefined][], placeOf?: PlaceOf): Segment[] {
  const whole = told.find(([, place]) => place === undefined);
  if (whole) return [{ text: data, mark: markOfTaken(whole[0]) }];
  const tree = told.length === 0 && !placeOf ? undefined : parseTree(data);
  if (!tree) return [{ text: data }];
  const stretches = told.flatMap(([taken, place]): Stretch[] => {
    const node = findNodeAtLocation(tree, [...(place ?? [])]);
    return node && isShown(node)
      ? [{ from: node.offset, to: node.offset + node.length, mark: markOfTaken(taken) }]
      : [];
  });
  if (!placeOf) return cut(data, stretches);
  const document = getNodeValue(tree);
  return cut(
    data,
    leafNodes(tree).map(({ offset, length, node }) => {
      const mark = stretches.find(({ from, to }) => from <= offset && offset < to)?.mark;
      return { from: offset, to: offset + length, mark, place: placeOf(document, getNodePath(node), mark?.what) };
    }),
  );
}

/** The leaves of a document with where each is written. */
export function leafNodes(node: Node): { offset: number; length: number; node: Node }[] {
  if (node.type === "property") return node.children?.[1] ? leafNodes(node.children[1]) : [];
  if (node.type === "object" || node.type === "array") return (node.children ?? []).flatMap(leafNodes);
  return [{ offset: node.offset, length: node.length, node }];
}

function markOfTaken(taken: Taken): NonNullable<Segment["mark"]> {
  switch (taken.what) {
    case "text":
    case "thought":
      return { what: taken.isSoFar ? `${taken.what}, all so far` : taken.what, tone: "said" };
    case "finish":
      return { what: taken.reason ? `end: ${taken.reason}` : "end: no word for it", tone: "end" };
    case "input":
      return { what: "usage in", tone: "usage" };
    case "output":
      return { what: "usage out", tone: "usage" };
    case "thought tokens":
      return { what: "of it thought", tone: "usage" };
    case "error":
    case "end":
      return { what: taken.what, tone: "end" };
    default:
      return { what: taken.what, tone: "setting" };
  }
}

function isShown(node: Node): boolean {
  return node.type !== "null" && !(node.type === "string" && node.value === "");
}

/** A text cut at what was taken from it; of two things taken at one place the first counts. */
export function cut(text: string, taken: Stretch[]): Segment[] {
  const segments: Segment[] = [];
  let at = 0;
  for (const { from, to, ...more } of taken.sort((a, b) => a.from - b.from)) {
    if (from < at) continue;
    segments.push({ text: text.slice(at, from) }, { text: text.slice(from, to), ...more });
    at = to;
  }
  return [...segments, { text: text.slice(at) }];
}

/** Segments without empty ones, and plain ones side by side as one. */
export function joined(segments: Segment[]): Segment[] {
  const result: Segment[] = [];
  for (const segment of segments) {
    const last = result.at(-1);
    if (segment.text === "") continue;
    if (last && !last.mark && !segment.mark && !last.place && !segment.place) last.text += segment.text;
    else result.push({ ...segment });
  }
  return result;
}
