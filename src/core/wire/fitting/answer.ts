import type { EndReason } from "../../reply/events";
import { ArrayFraming } from "../framing/array";
import type { Frame } from "../framing/framing";
import { NdjsonFraming } from "../framing/ndjson";
import { SseFraming } from "../framing/sse";
import { parseJson } from "../json";
import { pathTo } from "../path";
import type { FramingName, Rule, WrittenProfile } from "../profile";
import { isNamed, isProse, type Leaf, leavesOf, type Notes, wordsIn } from "./finding";

/** An answer as it was pasted. */
export interface PastedAnswer {
  framing: FramingName;
  contentType: string;
  body: string;
  /** Its events; one for an answer that is whole. */
  frames: Frame[];
}

type Steps = (string | number)[];
type Stream = NonNullable<WrittenProfile["answer"]["stream"]>;

const usualTypes: Record<FramingName, string> = {
  sse: "text/event-stream",
  ndjson: "application/x-ndjson",
  array: "application/json",
  json: "application/json",
  text: "text/plain",
};

/** Reads a pasted answer: its framing and its events. HTTP headers before it, as `curl -i` prints them, are heeded. */
export function answerIn(pasted: string): PastedAnswer {
  const [, head, rest] = /^(HTTP\/[\s\S]*?)\r?\n\r?\n([\s\S]*)$/.exec(pasted.trimStart()) ?? [];
  const body = (rest ?? pasted).replace(/^\uFEFF/, "");
  const named = /^content-type:\s*(\S[^\r\n]*)/im.exec(head ?? "")?.[1]?.trim();
  const framing = framingOf(body);
  return { framing, contentType: named ?? usualTypes[framing], body, frames: framesOf(framing, body) };
}

function framingOf(body: string): FramingName {
  if (/^\s*(?:(?:data|event|id|retry)?:[^\n\r]*[\r\n]+)/.test(body) && /^data:/m.test(body.replaceAll("\r", "\n")))
    return "sse";
  const document = parseJson(body);
  if (Array.isArray(document)) return "array";
  if (document !== undefined) return "json";
  const lines = body.split("\n").filter((line) => line.trim() !== "");
  if (lines.length > 1 && lines.slice(0, -1).every((line) => typeof parseJson(line) === "object")) return "ndjson";
  return /^\s*\[\s*\{/.test(body) ? "array" : "text";
}

function framesOf(name: FramingName, body: string): Frame[] {
  if (name === "json") return [{ name: "", data: body }];
  if (name === "text") return [];
  const framing = name === "sse" ? new SseFraming() : name === "ndjson" ? new NdjsonFraming() : new ArrayFraming();
  return [...framing.feed(name === "sse" ? `${body}\n\n` : body), ...framing.close()];
}

/** One event with its document and its leaves. */
interface Event {
  name: string;
  document: unknown;
  leaves: Leaf[];
}

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

/** What an answer tells of its profile: how it is framed, and which paths carry what. */
export function fitAnswer(
  pasted: PastedAnswer,
  notes: Notes,
): Pick<WrittenProfile["answer"], "stream" | "whole"> & { finishWords: Record<string, EndReason> } {
  notes.found("answer", "framing", framingSayings[pasted.framing], "sure");
  const types =
    pasted.contentType.startsWith(usualTypes[pasted.framing]) ||
    (pasted.framing === "ndjson" && /json-?l|jsonl|ndjson/.test(pasted.contentType))
      ? undefined
      : [pasted.contentType.split(";")[0] as string];
  if (pasted.framing === "text") {
    notes.missing.push("Why a reply ends and what it used: a body of plain text does not say.");
    return { stream: { framing: "text", ...(types ? { types } : {}), end: "close" }, finishWords: {} };
  }
  const events = pasted.frames.flatMap(({ name, data }): Event[] => {
    const document = parseJson(data);
    return document === undefined ? [] : [{ name, document, leaves: leavesOf(document) }];
  });
  const { rules, textPaths, lastText } = fitTexts(events, notes);
  const finish = fitFinish(events, textPaths, lastText, notes);
  if (finish) addTo(rules, finish.rule);
  const usage = fitUsage(events, textPaths, notes);
  if (usage) addTo(rules, usage);
  const number = fitNumber(events);
  if (pasted.framing === "json") return { whole: { rules }, finishWords: finish?.words ?? {} };
  return {
    stream: {
      framing: pasted.framing,
      ...(types ? { types } : {}),
      ...(number ? { number } : {}),
      rules,
      end: fitEnd(pasted, events, finish?.rule.finish, notes),
    },
    finishWords: finish?.words ?? {},
  };
}

const framingSayings: Record<FramingName, string> = {
  sse: "server-sent events",
  ndjson: "one JSON document a line",
  array: "a JSON array that grows",
  json: "one JSON document",
  text: "plain text",
};

/** Adds a rule, joined to one that goes without conditions. */
function addTo(rules: Rule[], rule: Rule): void {
  const joins = rules.find(
    (each) =>
      !each.when && !each.each && !each.soFar && !each.block && Object.keys(rule).every((name) => !(name in each)),
  );
  if (joins) Object.assign(joins, rule);
  else rules.push(rule);
}

const thoughtNames =
  /^(?:think|thinking|thought|thoughts|reason|reasoning|muse|mused|musing|note|notes|reflect|reflection|ponder|pondering)$/;

interface FittedTexts {
  rules: Rule[];
  /** The written places of what was taken, so that nothing else is looked for there. */
  textPaths: Set<string>;
  /** The number of the last event with text. */
  lastText: number;
}

function fitTexts(events: Event[], notes: Notes): FittedTexts {
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

const kindNames = /^(?:type|kind|sort|as|channel)$/;

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

/**
 * Streams whose events belong to numbered slots, each of which said at its opening what it holds:
 * `{"open": 1, "as": "talk"}`, then fragments that only give the number.
 */
function fitSlots(events: Event[], notes: Notes): FittedTexts | undefined {
  const kind = ["kind", "type", "event", "sort"].find((name) =>
    events.every(
      ({ leaves }) => typeof leaves.find(({ steps }) => steps.length === 1 && steps[0] === name)?.value === "string",
    ),
  );
  if (!kind) return undefined;
  const kindAt = ({ leaves }: Event) => String(leaves.find(({ steps }) => same(steps, [kind]))?.value);
  const slotted = events.filter(({ leaves }) =>
    leaves.some(({ steps, value }) => steps.length === 1 && steps[0] !== kind && Number.isInteger(value)),
  );
  const slot =
    slotted.length >= 3
      ? slotted[0]?.leaves.find(({ steps, value }) => steps.length === 1 && Number.isInteger(value))?.steps
      : undefined;
  if (!slot) return undefined;
  const number = ({ leaves }: Event) => leaves.find(({ steps }) => same(steps, slot))?.value;
  const openings = slotted.filter((event, at) => slotted.findIndex((each) => number(each) === number(event)) === at);
  const opened = kindAt(openings[0] as Event);
  if (openings.length < 2 || openings.some((each) => kindAt(each) !== opened)) return undefined;
  const word = openings[0]?.leaves.find(
    ({ steps, value }) =>
      typeof value === "string" &&
      !same(steps, [kind]) &&
      openings.every(({ leaves }) => typeof leaves.find((each) => same(each.steps, steps))?.value === "string"),
  );
  if (!word) return undefined;
  const more = slotted.filter((each) => kindAt(each) !== opened);
  const fragment = more[0]?.leaves.find(
    ({ steps, value }) => typeof value === "string" && !same(steps, [kind]) && !same(steps, slot),
  );
  const moreKind = kindAt(more[0] as Event);
  if (!fragment) return undefined;

  const rules: Rule[] = [{ when: { at: `$.${kind}`, is: opened }, block: pathTo(slot), remember: pathTo(word.steps) }];
  const textPaths = new Set([pathTo(fragment.steps), pathTo(word.steps)]);
  let lastText = -1;
  for (const opening of openings) {
    const name = String(opening.leaves.find(({ steps }) => same(steps, word.steps))?.value);
    const parts = more
      .filter((each) => number(each) === number(opening))
      .map(({ leaves }) => String(leaves.find(({ steps }) => same(steps, fragment.steps))?.value ?? ""));
    const when = { at: `$.${kind}`, is: moreKind, remembered: name };
    const path = pathTo(fragment.steps);
    if (/^\s*[{[]/.test(parts.join("")) && parseJson(parts.join("")) !== undefined) {
      const named = opening.leaves.find(
        ({ steps }) => steps.length > 1 && wordsIn(steps.at(-1) as string).includes("name"),
      );
      const id = opening.leaves.find(({ steps }) => steps.length > 1 && steps.at(-1) === "id");
      if (rules[0])
        rules[0].tool = { ...(id ? { id: pathTo(id.steps) } : {}), ...(named ? { name: pathTo(named.steps) } : {}) };
      rules.push({ when, block: pathTo(slot), tool: { arguments: path } });
      notes.found("answer", "tool call", `${path} of the slot “${name}”`, "likely");
    } else if (thoughtNames.test(name)) {
      rules.push({ when, block: pathTo(slot), thought: path });
      notes.found("answer", "thought", `${path} of the slot “${name}”`, "sure");
    } else {
      rules.push({ when, block: pathTo(slot), text: path });
      notes.found("answer", "text", `${path} of the slot “${name}”`, "sure");
      lastText = events.lastIndexOf(more.findLast((each) => number(each) === number(opening)) as Event);
    }
  }
  return lastText < 0 ? undefined : { rules, textPaths, lastText };
}

const finishNames = /^(?:finish|finished|reason|why|stop|stopped|because|end|ended|outcome|done|turned|status)$/;
const knownWords: [RegExp, EndReason][] = [
  [/^(?:stop|stopped|done|end|ended|end_turn|complete|completed|finish|finished|natural|eos|success)$/i, "complete"],
  [/^(?:length|max|max_?tokens|max_?output|limit|longest|cap|truncated|cut)$/i, "length"],
  [/^(?:stop_?(?:word|sequence))$/i, "stop-word"],
  [/^(?:tool|tools|tool_?calls?|function_?call)$/i, "tools"],
  [/^(?:refused|refusal|content_?filter|filtered|blocked|safety|declined)$/i, "refused"],
];

/** The reasons that a word can stand for, as a question offers them. */
export const finishChoices: EndReason[] = ["complete", "length", "stop-word", "tools", "refused"];

function fitFinish(events: Event[], taken: Set<string>, lastText: number, notes: Notes) {
  const isWhole = events.length === 1;
  const late = events.slice(isWhole ? 0 : Math.max(lastText, 0));
  const early = events.slice(0, Math.max(lastText, 0));
  const found = late
    .flatMap(({ leaves }) => leaves)
    .filter(({ steps, value }) => {
      if (typeof value !== "string" && !(typeof value === "number" && isNamed(steps, finishNames))) return false;
      if (taken.has(pathTo(steps)) || (typeof value === "string" && (value.length > 30 || isProse(value))))
        return false;
      return !early.some(({ leaves }) =>
        leaves.some((each) => same(each.steps, steps) && each.value !== null && each.value !== ""),
      );
    });
  const leaf =
    found.find(({ steps }) => isNamed(steps.slice(-1), finishNames)) ??
    found.find(({ steps }) => isNamed(steps, finishNames)) ??
    (isWhole ? undefined : found.find(({ value }) => knownWords.some(([pattern]) => pattern.test(String(value)))));
  if (!leaf) {
    notes.missing.push(
      "Why a reply ends: this answer does not seem to say. A cut reply will look like a complete one.",
    );
    return undefined;
  }
  const path = pathTo(leaf.steps);
  const word = String(leaf.value);
  notes.found("answer", "finish", path, isNamed(leaf.steps, finishNames) ? "sure" : "likely");
  const known = typeof leaf.value === "string" ? knownWords.find(([pattern]) => pattern.test(word))?.[1] : undefined;
  const said =
    known ??
    notes.ask({
      id: `finish ${word}`,
      ask: `The reply ended with “${word}”. What does that mean?`,
      choices: finishChoices,
    });
  const reason = finishChoices.find((each) => each === said);
  const words: Record<string, EndReason> = reason ? { [word]: reason } : {};
  notes.missing.push(
    "Its other words for why a reply ends: one answer shows one of them. Probe it, and add those that come.",
  );
  return { rule: { finish: path } as Rule, words };
}

const inputNames = /^(?:in|input|prompt|read|asked|heard|sent|request|question)$/;
const outputNames = /^(?:out|output|completion|reply|written|generated|spoken|response|answer|produced)$/;
const usageNames = /^(?:usage|tokens|count|counts|counted|tally|meter|cost|units|spent|tolls|n)$/;
const timeNames = /^(?:ms|seconds|duration|took|time|at|created|id|index|no|slot|which)$/;

function fitUsage(events: Event[], taken: Set<string>, notes: Notes): Rule | undefined {
  const numbers = new Map<string, { steps: Steps; values: number[] }>();
  for (const { leaves } of events)
    for (const { steps, value } of leaves) {
      if (
        !Number.isInteger(value) ||
        (value as number) < 0 ||
        taken.has(pathTo(steps)) ||
        isNamed(steps.slice(-1), timeNames)
      )
        continue;
      const known = numbers.get(pathTo(steps)) ?? { steps, values: [] };
      known.values.push(value as number);
      numbers.set(pathTo(steps), known);
    }
  const all = [...numbers.values()];
  const lastNamed = (words: RegExp) =>
    all.find(({ steps }) => isNamed(steps.slice(-1), words) && !isNamed(steps.slice(-1), /^(?:cache|cached)$/));
  const input = lastNamed(inputNames);
  let output = lastNamed(outputNames);
  const thought = all.find(({ steps }) => isNamed(steps.slice(-1), thoughtNames));
  const owner = input?.steps.slice(0, -1) ?? all.find(({ steps }) => isNamed(steps, usageNames))?.steps.slice(0, -1);
  const others = all.filter(
    (each) =>
      each !== input &&
      each !== thought &&
      owner &&
      each.steps.length > 1 &&
      same(each.steps.slice(0, -1), owner) &&
      !isNamed(each.steps.slice(-1), /^(?:total|all|cache|cached)$/),
  );
  const isGuess = !output && input && others.length === 1;
  if (isGuess) output = others[0];
  if (!input && !output) {
    notes.missing.push("What a reply uses: no counts of tokens were found, so they are estimated.");
    return undefined;
  }
  if (input) notes.found("answer", "usage in", pathTo(input.steps), "sure");
  else notes.missing.push("The tokens that went in: no count was found, so they are estimated.");
  if (output) notes.found("answer", "usage out", pathTo(output.steps), isGuess ? "likely" : "sure");
  else notes.missing.push("The tokens that came out: no count was found, so they are estimated.");
  if (thought) notes.found("answer", "usage of thought", pathTo(thought.steps), "sure");
  const falls = [input, output].some((each) =>
    each?.values.some((value, at) => at > 0 && value < (each.values[at - 1] as number)),
  );
  return {
    usage: {
      ...(input ? { input: pathTo(input.steps) } : {}),
      ...(output ? { output: pathTo(output.steps) } : {}),
      ...(thought ? { thought: pathTo(thought.steps) } : {}),
      ...(falls ? { adds: true } : {}),
    },
  };
}

/** A number at the top of the events that counts them up and comes twice where an event does. */
function fitNumber(events: Event[]): string | undefined {
  const first = events[0]?.leaves.find(
    ({ steps, value }) => steps.length === 1 && value === 1 && isNamed(steps, /^(?:n|no|seq|sequence|number)$/),
  );
  if (!first) return undefined;
  const values = events.map(({ leaves }) => leaves.find(({ steps }) => same(steps, first.steps))?.value);
  const counts = values.every(
    (value, at) => typeof value === "number" && (at === 0 || value - (values[at - 1] as number) <= 1),
  );
  return counts ? pathTo(first.steps) : undefined;
}

function fitEnd(
  { framing, frames }: PastedAnswer,
  events: Event[],
  finish: string | undefined,
  notes: Notes,
): Stream["end"] {
  const last = frames.at(-1);
  const found = (where: string, certainty: "sure" | "likely" = "sure") =>
    notes.found("answer", "end", where, certainty);
  if (framing === "array") {
    found("the array closes");
    return "close";
  }
  if (last && parseJson(last.data) === undefined) {
    found(last.data);
    return { sentinel: last.data };
  }
  const final = events.at(-1);
  const before = events.slice(0, -1);
  if (final && final.name !== "" && before.every(({ name }) => name !== final.name)) {
    found(`the event ${final.name}`);
    return { when: { event: final.name } };
  }
  const differs = (leaf: Leaf) =>
    before.every(({ leaves }) => leaves.find(({ steps }) => same(steps, leaf.steps))?.value !== leaf.value);
  const flag = final?.leaves.find((leaf) => leaf.value === true && differs(leaf));
  const kind = final?.leaves.find(
    (leaf) =>
      leaf.steps.length === 1 &&
      kindNames.test(String(leaf.steps[0])) &&
      typeof leaf.value === "string" &&
      differs(leaf),
  );
  const mark = flag ?? kind;
  if (mark) {
    found(`${pathTo(mark.steps)} is ${JSON.stringify(mark.value)}`, flag ? "sure" : "likely");
    return { when: { at: pathTo(mark.steps), is: mark.value } };
  }
  if (
    finish &&
    framing === "ndjson" &&
    before.every(({ document }) => leavesOf(document).every(({ steps }) => pathTo(steps) !== finish))
  ) {
    found(`${finish} is there`, "likely");
    return { when: { at: finish } };
  }
  found("the stream closes", "likely");
  return "close";
}

function same(a: Steps, b: Steps): boolean {
  return a.length === b.length && a.every((step, place) => step === b[place]);
}
