import type { EndReason } from "../../reply/events";
import { framingOf } from "../framing/framings";
import { parseShallow } from "../json";
import type { PastedAnswer } from "../pasted/answer";
import { pathTo } from "../path";
import type { WrittenProfile } from "../profile-schema";
import { fitFinish, fitUsage } from "./ending";
import { type Event, isNamed, kindNames, type Leaf, leavesOf, type Notes, same } from "./finding";
import { addTo, fitTexts } from "./texts";

type Stream = NonNullable<WrittenProfile["answer"]["stream"]>;

/** What an answer tells of its profile: how it is framed, and which paths carry what. */
export function fitAnswer(
  pasted: PastedAnswer,
  notes: Notes,
): Pick<WrittenProfile["answer"], "stream" | "whole"> & { finishWords: Record<string, EndReason> } {
  const { saying, types: usual } = framingOf(pasted.framing);
  notes.found("answer", "framing", saying, "sure");
  const types = usual.test(pasted.contentType) ? undefined : [pasted.contentType.split(";")[0] as string];
  if (pasted.framing === "text") {
    notes.missing.push("Why a reply ends and what it used: a body of plain text does not say.");
    return { stream: { framing: "text", ...(types ? { types } : {}), end: "close" }, finishWords: {} };
  }
  const events = pasted.frames.flatMap(({ name, data }): Event[] => {
    const document = parseShallow(data);
    return document === undefined ? [] : [{ name, document, leaves: leavesOf(document) }];
  });
  const { rules, textPaths, lastText } = fitTexts(events, notes);
  const finish = fitFinish(events, textPaths, lastText, notes);
  if (finish) addTo(rules, finish.rule);
  const usage = fitUsage(events, textPaths, notes);
  if (usage) addTo(rules, usage);
  const number = fitNumber(pasted, events);
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
  if (last && parseShallow(last.data) === undefined) {
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
