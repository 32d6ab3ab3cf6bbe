import type { EndReason } from "../../reply/events";
import { framingOf } from "../framing/framings";
import { parseShallow } from "../json";
import type { PastedAnswer } from "../pasted/answer";
import { pathTo } from "../path";
import type { Rule, WrittenProfile } from "../profile-schema";
import { fitCalls } from "./calls";
import { fitFinish, fitHeaderUsage, fitUsage } from "./ending";
import { type Event, isNamed, type Leaf, leavesOf, type Notes, same } from "./finding";
import { isCalled, names } from "./naming";
import { addTo, fitTexts } from "./texts";

type Stream = NonNullable<WrittenProfile["answer"]["stream"]>;

/** What an answer tells of its profile. */
export type FittedAnswer = Pick<WrittenProfile["answer"], "stream" | "whole"> & {
  finishWords: Record<string, EndReason>;
};

/** What an answer tells of its profile: how it is framed, and which paths carry what. */
export function fitAnswer(pasted: PastedAnswer, notes: Notes): FittedAnswer {
  const { saying, types: usual } = framingOf(pasted.framing);
  notes.found("answer", "framing", saying, "sure");
  const types = usual.test(pasted.contentType) ? undefined : [pasted.contentType.split(";")[0] as string];
  if (pasted.framing === "text") {
    notes.missing.push("Why a reply ends: a body of plain text does not say.");
    const usage = fitHeaderUsage(pasted.headers, notes);
    return {
      stream: { framing: "text", ...(types ? { types } : {}), ...(usage ? { rules: [usage] } : {}), end: "close" },
      finishWords: {},
    };
  }
  const events = looked(pasted.frames).flatMap(({ name, data }): Event[] => {
    const document = parseShallow(data);
    return document === undefined ? [] : [{ name, document, leaves: leavesOf(document) }];
  });
  const raw = fitRaw(pasted, notes);
  const calls = fitCalls(events, notes);
  const { rules, textPaths, lastText } = raw
    ? { rules: [raw.rule], textPaths: new Set<string>(), lastText: -1 }
    : fitTexts(events, calls?.paths ?? new Set(), notes);
  const hasSlots = rules.some(({ tool }) => tool !== undefined);
  if (calls && !hasSlots) addTo(rules, calls.rule);
  const taken = new Set([...textPaths, ...(calls?.paths ?? [])]);
  const finish = fitFinish(events, taken, lastText, notes);
  if (finish) addFinish(rules, finish.rule);
  const usage = fitUsage(events, taken, notes) ?? fitHeaderUsage(pasted.headers, notes);
  if (usage) addTo(rules, usage);
  else if (!notes.missing.some((sentence) => sentence.startsWith("What a reply uses")))
    notes.missing.push("What a reply uses: no counts of tokens were found, so they are estimated.");
  const version = fitVersion(events, taken, notes);
  if (version) addTo(rules, version);
  const number = fitNumber(pasted, events);
  if (pasted.framing === "json") return { whole: { rules }, finishWords: finish?.words ?? {} };
  return {
    stream: {
      framing: pasted.framing,
      ...(types ? { types } : {}),
      ...(number ? { number } : {}),
      rules,
      end: fitEnd(pasted, events, raw?.event, finish?.path, notes),
    },
    finishWords: finish?.words ?? {},
  };
}

/** Events of a long answer that are looked at, at its beginning and at its end; the proof reads all of them. */
const lookedAt = 400;

function looked<T>(frames: readonly T[]): readonly T[] {
  return frames.length <= lookedAt * 2 ? frames : [...frames.slice(0, lookedAt), ...frames.slice(-lookedAt)];
}

/** What the answer calls the model that made it, where it says so. */
function fitVersion(events: readonly Event[], taken: ReadonlySet<string>, notes: Notes): Rule | undefined {
  const named = events
    .flatMap(({ leaves }) => leaves)
    .find(
      ({ steps, value }) =>
        typeof value === "string" &&
        value !== "" &&
        steps.length <= 2 &&
        /^model(?:_?(?:version|name|id))?$/i.test(String(steps.at(-1))),
    );
  if (!named || taken.has(pathTo(named.steps))) return undefined;
  notes.found("answer", "version", pathTo(named.steps), "sure");
  return { version: pathTo(named.steps) };
}

/** Events of one name whose data is no JSON, several of them and not all the same: text as it stands. */
function fitRaw({ framing, frames }: PastedAnswer, notes: Notes): { rule: Rule; event: string } | undefined {
  if (framing !== "sse") return undefined;
  const eventNames = [...new Set(frames.map(({ name }) => name))];
  for (const event of eventNames) {
    const data = frames.filter(({ name }) => name === event).map((each) => each.data);
    const plain = data.filter((each) => typeof parseShallow(each) !== "object");
    const isSaid = plain.length > 1 && new Set(plain).size > 1 && plain.some((each) => /\p{L}/u.test(each));
    const isOnlyPlain = plain.length === data.length || (event === "" && plain.length > data.length / 2);
    const areMoments = plain.every(
      (each) => /^[\d\s:TZ.+-]*$/.test(each) || (/^\[?\w+\]?$/.test(each) && new Set(plain).size === 1),
    );
    if (!isSaid || !isOnlyPlain || areMoments) continue;
    notes.found("answer", "text", event === "" ? "data that is no JSON" : `the data of ${event}`, "sure");
    return { rule: { ...(event === "" ? {} : { when: { event } }), raw: true, text: "$" }, event };
  }
  return undefined;
}

/** Adds where the finish stands; beside the text of a take it is read of each. */
function addFinish(rules: Rule[], rule: Rule): void {
  const takes = rules.find(({ each, take }) => each !== undefined && take !== undefined);
  const list = takes?.each?.replace(/\[\*\]$/, "");
  if (takes && list && rule.finish?.startsWith(`${list}[`) && !rule.when)
    takes.finish = `@${rule.finish.slice(list.length).replace(/^\[\d+\]/, "")}`;
  else addTo(rules, rule);
}

/**
 * What counts the events up, and comes twice where an event does: a number at their top, or their ids
 * where one of them shows that it is so.
 */
function fitNumber({ frames }: PastedAnswer, events: Event[]): string | undefined {
  const isRepeated = frames.some(
    ({ id, data }, at) => id !== undefined && id === frames[at - 1]?.id && data === frames[at - 1]?.data,
  );
  if (isRepeated) return "id";
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
  raw: string | undefined,
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
  const isSaid = raw !== undefined && last?.name === raw && !/^\[\w+\]$/.test(last.data);
  if (last && parseShallow(last.data) === undefined && !isSaid) {
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
      isCalled(String(leaf.steps[0]), names.kind) &&
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
