import type { EndReason } from "../../reply/events";
import { pathTo } from "../path";
import type { Rule } from "../profile-schema";
import { type Event, isNamed, isProse, type Notes, type Steps, same, thoughtNames } from "./finding";

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

/** The word for why the reply ended, and what it means. */
export function fitFinish(events: Event[], taken: Set<string>, lastText: number, notes: Notes) {
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

/** Where the counts of tokens stand. */
export function fitUsage(events: Event[], taken: Set<string>, notes: Notes): Rule | undefined {
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
