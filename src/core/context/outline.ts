import { z } from "zod";
import { noSum, type Sum, withTurn } from "../conversation/sum";
import { candidateSchema } from "../reply/events";
import { replyStates } from "../reply/reply";
import { type Class, type Counts, classes } from "../tokens/counts";
import { isAnswer, type Row } from "./row";

/** A line without its texts, as small as it can be sent: a row for each message, from the root. */
export const outlineSchema = z.object({
  /** Who answered, each once. */
  makers: z.array(candidateSchema),
  rows: z.array(
    z.tuple([
      z.string(),
      /** The state of a reply; null for a visitor's message. */
      z.enum(replyStates).nullable(),
      /** Of a reply: its maker. */
      z.int().nullable(),
      /** Counts by class, in their order, up to the last that is not 0. */
      z.array(z.int()).max(classes.length),
    ]),
  ),
});
export type Outline = z.infer<typeof outlineSchema>;

/** The rows of an outline. */
export function rowsOf({ makers, rows }: Outline): Row[] {
  let soFar: Sum = noSum;
  let asked: Counts | undefined;
  let turn = 0;
  return rows.map(([id, state, maker, numbers]): Row => {
    const counts = countsFrom(numbers);
    const kinds = kindsIn(counts);
    if (state === null) {
      asked = counts;
      turn += 1;
      return { id, turn, role: "visitor", state, counts, soFar, kinds, by: null };
    }
    const by = (maker === null ? undefined : makers[maker]) ?? null;
    const reply: Row = { id, turn, role: "app", state, counts, soFar, kinds, by };
    if (asked && isAnswer(reply)) soFar = withTurn(soFar, [asked, counts]);
    return { ...reply, soFar };
  });
}

/** Counts as they are sent. */
export function numbersOf(counts: Counts): number[] {
  const numbers = classes.map((name) => counts[name]);
  return numbers.slice(0, numbers.findLastIndex((number) => number !== 0) + 1);
}

function countsFrom(numbers: readonly number[]): Counts {
  return Object.fromEntries(classes.map((name, at) => [name, numbers[at] ?? 0])) as Record<Class, number>;
}

/** The kinds of pieces that a message with these counts holds; what a tool said counts as text, too. */
function kindsIn({ words, runs, digits, strokes, pictures, calls }: Counts): Row["kinds"] {
  const kinds: Row["kinds"] = words + runs + digits + strokes > 0 ? ["text"] : [];
  if (pictures > 0) kinds.push("picture");
  if (calls > 0) kinds.push("tool");
  return kinds;
}
