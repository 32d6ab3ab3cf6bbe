import type { EndReason } from "../../reply/events";
import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, isNamed, isProse, type Leaf, type Notes, type Steps, same } from "./finding";
import { isCalled, isStamp, lastName, names } from "./naming";
import { generalPath } from "./series";

const knownWords: [RegExp, EndReason][] = [
  [
    /^(?:stop|stopped|done|end|ended|end_?(?:of_?)?turn|complete|completed|finish|finished|natural|eos|eos_?token|success)$/i,
    "complete",
  ],
  [
    /^(?:length|max|max_?tokens|max_?length|max_?output(?:_?tokens)?|token_?limit|limit|longest|cap|truncated|cut)$/i,
    "length",
  ],
  [/^(?:stop_?(?:word|sequence))$/i, "stop-word"],
  [/^(?:tool|tools|tool_?(?:calls?|use)|function_?calls?)$/i, "tools"],
  [/^(?:refused|refusal|content_?filter|filtered|blocked|safety|declined)$/i, "refused"],
];

/** The reasons that a word can stand for, as a question offers them. */
export const finishChoices: EndReason[] = ["complete", "length", "stop-word", "tools", "refused"];

/** The word for why the reply ended, and what it means. */
export function fitFinish(events: Event[], taken: Set<string>, lastText: number, notes: Notes) {
  const found = toldFinish(events, notes) ?? finishIn(events, taken, lastText, notes);
  if (!found) {
    notes.missing.push(
      "Why a reply ends: this answer does not seem to say. A cut reply will look like a complete one.",
    );
    return undefined;
  }
  const { leaf, before } = found;
  const path = pathTo(leaf.steps);
  const word = String(leaf.value);
  notes.found("answer", "finish", path, isNamed(leaf.steps, names.finish) ? "sure" : "likely");
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
  // words that stand there before the end say how far it is, and not why it ended
  const rule: Rule = before.length === 0 ? { finish: path } : { when: { not: { at: path, is: before } }, finish: path };
  return { rule, words, path: before.length === 0 ? path : undefined };
}

/** Whether the developer says of a leaf of an answer what it is. */
function isTold(document: unknown, { steps }: Leaf, meaning: string, notes: Notes): boolean {
  return notes.meaningAt("answer", generalPath(document, steps)) === meaning;
}

function toldFinish(events: Event[], notes: Notes): { leaf: Leaf; before: string[] } | undefined {
  const told = events
    .flatMap(({ document, leaves }) => leaves.filter((leaf) => isTold(document, leaf, "finish", notes)))
    .filter(({ value }) => value !== null && value !== "");
  const leaf = told.at(-1);
  if (!leaf) return undefined;
  const before = [...new Set(told.map(({ value }) => String(value)))].filter((value) => value !== String(leaf.value));
  return { leaf, before };
}

/** The leaf that says why the reply ended, and what stood there before. */
function finishIn(
  events: Event[],
  taken: Set<string>,
  lastText: number,
  notes: Notes,
): { leaf: Leaf; before: string[] } | undefined {
  const isWhole = events.length === 1;
  const late = events.slice(isWhole ? 0 : Math.max(lastText, 0));
  const early = events.slice(0, Math.max(lastText, 0));
  const earlierAt = (steps: Steps, own: unknown) => [
    ...new Set(
      events
        .flatMap(({ leaves }) => leaves.filter((each) => same(each.steps, steps)))
        .map(({ value }) => value)
        .filter((value) => value !== null && value !== "" && value !== own)
        .map(String),
    ),
  ];
  const candidates = late
    .flatMap(({ document, leaves }) => leaves.filter((leaf) => !isTold(document, leaf, "nothing", notes)))
    .filter(({ steps, value }) => {
      if (typeof value !== "string" && !(typeof value === "number" && isNamed(steps, names.finish))) return false;
      if (value === "" || taken.has(pathTo(steps)) || isCalled(lastName(steps), names.kind)) return false;
      return typeof value !== "string" || (value.length <= 30 && !isProse(value));
    });
  const isNew = ({ steps }: Leaf) =>
    !early.some(({ leaves }) =>
      leaves.some((each) => same(each.steps, steps) && each.value !== null && each.value !== ""),
    );
  const fresh = candidates.filter(isNew);
  const leaf =
    fresh.find(({ steps }) => isNamed(steps.slice(-1), names.finish)) ??
    fresh.find(({ steps }) => isNamed(steps, names.finish)) ??
    (isWhole ? undefined : fresh.find(({ value }) => knownWords.some(([pattern]) => pattern.test(String(value)))));
  if (leaf) return { leaf, before: [] };
  // a word that comes once, with the last text or after it, and is called nothing else
  const isOther = ({ steps }: Leaf) =>
    [names.kind, names.id, names.text, names.thought].some((words) => isCalled(lastName(steps), words));
  const words = fresh.filter(
    (each) => typeof each.value === "string" && !isOther(each) && !isStamp(String(each.value)),
  );
  const [only, more] = words;
  if (!isWhole && only && !more) return { leaf: only, before: [] };
  const changing = isWhole
    ? undefined
    : candidates.findLast(
        ({ steps, value }) => isNamed(steps.slice(-1), names.finish) && earlierAt(steps, value).length > 0,
      );
  return changing && { leaf: changing, before: earlierAt(changing.steps, changing.value) };
}

const inputNames = /^(?:in|input|heard|prompt|read|asked|heard|sent|request|question|evaluated)$/;
const outputNames =
  /^(?:out|output|said|completion|reply|written|generated|spoken|response|answer|produced|predicted)$/;
const usageNames = /^(?:usage|tokens|count|counts|counted|tally|meter|cost|units|spent|tolls|n)$/;
const timeNames = /^(?:ms|seconds|duration|took|time|at|created|id|index|no|slot|which)$/;

/** Where the counts of tokens stand. */
export function fitUsage(events: Event[], taken: Set<string>, notes: Notes): Rule | undefined {
  const numbers = new Map<string, { steps: Steps; values: number[]; last: number }>();
  const told: { "usage in"?: Steps; "usage out"?: Steps } = {};
  for (const [at, { document, leaves }] of events.entries())
    for (const { steps, value } of leaves) {
      const meaning = notes.meaningAt("answer", generalPath(document, steps));
      if (meaning === "usage in" || meaning === "usage out") told[meaning] = steps;
      else if (meaning !== undefined) continue;
      if (!isCount(value, steps) || taken.has(pathTo(steps)) || isNamed(steps.slice(-1), timeNames)) continue;
      const known = numbers.get(pathTo(steps)) ?? { steps, values: [], last: at };
      known.values.push(Number(value));
      known.last = at;
      numbers.set(pathTo(steps), known);
    }
  // what is billed may be rounded, and is no count of tokens where those stand beside it
  const plain = [...numbers.values()].filter(({ steps }) => !isNamed(steps, names.billed));
  const all = plain.some(({ steps }) => isNamed(steps, inputNames) || isNamed(steps, outputNames))
    ? plain
    : [...numbers.values()];
  // of several places the one that is told last counts: what stands in the first event is where the count began
  const lastNamed = (words: RegExp) =>
    all
      .filter(({ steps }) => isNamed(steps.slice(-1), words) && !isNamed(steps.slice(-1), /^(?:cache|cached)$/))
      .reduce<(typeof all)[number] | undefined>(
        (best, each) => (best && best.last >= each.last ? best : each),
        undefined,
      );
  const at = (steps: Steps | undefined) => steps && [...numbers.values()].find((each) => same(each.steps, steps));
  const input = at(told["usage in"]) ?? lastNamed(inputNames);
  let output = at(told["usage out"]) ?? lastNamed(outputNames);
  const thought = all.find(({ steps }) => isNamed(steps.slice(-1), names.thought));
  const owner = input?.steps.slice(0, -1) ?? all.find(({ steps }) => isNamed(steps, usageNames))?.steps.slice(0, -1);
  const others = all.filter(
    (each) =>
      each !== input &&
      each !== thought &&
      owner &&
      (each.steps.length > 1 || isNamed(each.steps, usageNames)) &&
      same(each.steps.slice(0, -1), owner) &&
      !isNamed(each.steps.slice(-1), /^(?:total|all|cache|cached)$/),
  );
  const isGuess = !output && input && others.length === 1;
  if (isGuess) output = others[0];
  if (!input && !output) return undefined;
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

/** Whether a value can be a count: a whole number, or where counts stand one as text. */
function isCount(value: unknown, steps: Steps): boolean {
  if (typeof value === "string") return /^\d{1,9}$/.test(value) && isNamed(steps, usageNames);
  return Number.isInteger(value) && (value as number) >= 0;
}

/** Counts of tokens that stand in the headers of an answer. */
export function fitHeaderUsage(headers: Readonly<Record<string, string>>, notes: Notes): Rule | undefined {
  const counts = Object.entries(headers).filter(
    ([name, value]) => /^\d{1,9}$/.test(value.trim()) && isNamed([name], /^(?:tokens?|usage|count|counts)$/),
  );
  const called = (words: RegExp) => counts.find(([name]) => isNamed([name], words))?.[0];
  const [input, output] = [called(inputNames), called(outputNames)];
  if (input === undefined && output === undefined) return undefined;
  if (input !== undefined) notes.found("answer", "usage in", `the header ${input}`, "sure");
  if (output !== undefined) notes.found("answer", "usage out", `the header ${output}`, "sure");
  return {
    usage: {
      ...(input === undefined ? {} : { input: { header: input } }),
      ...(output === undefined ? {} : { output: { header: output } }),
    },
  };
}
