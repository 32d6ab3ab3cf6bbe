import { z } from "zod";
import { figuresSchema } from "../../checks/seen";
import { type Problem, problemSchema } from "../../problem/problem";

/** One reply of a lane to a message of a set. The times in its figures are those of the call that answered, alone. */
export const setReplySchema = z.object({
  text: z.string(),
  figures: figuresSchema,
  /** The making that it came from, with its dispatches; null where nothing was sent. */
  making: z.string().nullable(),
});
export type SetReply = z.infer<typeof setReplySchema>;

/** A developer's word on an answer. */
export const setMarks = ["good", "bad"] as const;
export type SetMark = (typeof setMarks)[number];

/** What a lane answered to a row of a set: a reply to each of its messages, as far as there were replies. */
export const setAnswerSchema = z.object({
  row: z.int(),
  lane: z.int(),
  replies: z.array(setReplySchema),
  mark: z.enum(setMarks).nullable(),
  /** Grows with each answer that comes. */
  seq: z.int(),
});
export type SetAnswer = z.infer<typeof setAnswerSchema>;

/** Why an answer is none, or not all of one. */
export function problemOf({ replies }: Pick<SetAnswer, "replies">): Problem | undefined {
  return replies.at(-1)?.figures.problem;
}

/** All that an answer says, one reply after the other. */
export function textOfAnswer({ replies }: Pick<SetAnswer, "replies">): string {
  return replies.map(({ text }) => text).join("\n\n");
}

/** What is measured of the replies of a lane. */
export const measures = ["firstText", "speed", "price", "length"] as const;
export type Measure = (typeof measures)[number];

/**
 * A measure of a reply: milliseconds to its first text, tokens a second from there on, its price, tokens of it; undefined
 * where that is not known.
 */
export function measured({ figures, text }: SetReply, measure: Measure): number | undefined {
  const { firstTextMs, ms, output, price } = figures;
  if (text === "") return undefined;
  switch (measure) {
    case "firstText":
      return firstTextMs;
    case "speed": {
      const span = ms - (firstTextMs ?? ms);
      return output === undefined || span <= 0 ? undefined : (output / span) * 1000;
    }
    case "price":
      return price;
    case "length":
      return output;
  }
}

/** What a set may cost at most in a lane, and what it comes to where replies are of the usual length. */
export const setAheadSchema = z.object({
  tokens: z.int(),
  usual: z.number().nullable(),
  /** Null where a reply has no limit, or what is called beside it has none. */
  most: z.number().nullable(),
  currency: z.string(),
  problem: problemSchema.nullable(),
});
export type SetAhead = z.infer<typeof setAheadSchema>;
