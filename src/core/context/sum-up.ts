import type { Message } from "../conversation/message";
import { piecesOf, textOf } from "../conversation/pieces";
import type { Content } from "../revision/content";
import { type Calibration, marginOf, tokensOf } from "../tokens/calibration";
import { countsOf } from "../tokens/counts";
import type { Pinned } from "./assemble";
import { markOf } from "./mark";
import { promptOf, summaryPart, transcriptOf } from "./transcript";

/** What a model is told that sums up, where nothing else is said. */
export const usualSummaryPrompt =
  "Sum up this conversation for the assistant that goes on with it, in at most 120 words: who the visitor is, what they want, names, places, times, numbers, and what was agreed. Write about the visitor in the third person, and nothing but the summary.";

/** Older turns that may be left uncovered, carried in full, until there are so many: one call then covers all of them. */
export const batch = 4;

/** Characters that a summary may have. */
export const longestSummary = 20_000;

/** What stands for how a summary is made: who makes it, on what prompt. */
export function recipeOf({ provider, model, memory }: Content): string | undefined {
  if (memory.kind !== "summary") return undefined;
  const { by = { provider, model }, prompt = usualSummaryPrompt } = memory;
  const written = JSON.stringify([by.provider, by.model, prompt]);
  return `${markOf(written)} ${written.length}`;
}

/** Tokens that a summary may have, its thought included. @param window of the model that sums up */
export function mostOfSummary(window: number): number {
  return Math.max(Math.min(1_000, Math.floor(window / 4)), 1);
}

/** What is to be summed up, and by what kind of model. */
export interface ToSumUp {
  prompt: string;
  /** The summary of what comes before these turns. */
  before: string | null;
  /** Answered turns, in order. */
  turns: readonly Pinned[];
  /** Of the model that sums up, in tokens. */
  window: number;
  calibration: Calibration;
}

/** Letters below which a message is not shortened. */
const leastKept = 100;

/**
 * The one message that asks for a summary: of as many of the turns as the model has room for, from the first on. A turn
 * that has no room by itself is shortened.
 * @returns how many turns it holds, from 1, and the most tokens it has; undefined where there is room for none
 */
export function askForSummary({
  prompt,
  before,
  turns,
  window,
  calibration,
}: ToSumUp): { text: string; count: number; tokens: number } | undefined {
  const ceiling = window - mostOfSummary(window);
  const asked = (some: readonly Pinned[]) => {
    const text = promptOf([
      prompt,
      before === null ? "" : summaryPart(before),
      transcriptOf(some.flatMap(({ visitor, reply }) => [visitor, reply])),
    ]);
    const holding = { counts: countsOf(text), messages: 1 };
    return { text, tokens: Math.ceil(tokensOf(holding, calibration) + marginOf(holding, calibration)) };
  };
  let [fits, over] = [0, turns.length + 1];
  while (over - fits > 1) {
    const middle = Math.floor((fits + over) / 2);
    if (asked(turns.slice(0, middle)).tokens <= ceiling) fits = middle;
    else over = middle;
  }
  if (fits > 0) return { ...asked(turns.slice(0, fits)), count: fits };
  const [first] = turns;
  if (!first) return undefined;
  const longest = Math.max(textOf(first.visitor).length, textOf(first.reply).length);
  for (let most = longest / 2; most >= leastKept; most /= 2) {
    const shorter = asked([{ visitor: shortened(first.visitor, most), reply: shortened(first.reply, most) }]);
    if (shorter.tokens <= ceiling) return { ...shorter, count: 1 };
  }
  return undefined;
}

function shortened<M extends Message>(message: M, most: number): M {
  const text = textOf(message);
  return text.length <= most ? message : { ...message, pieces: piecesOf(`${text.slice(0, most).trimEnd()} …`) };
}
