import { transcriptOf } from "../context/transcript";
import type { Message } from "../conversation/message";

/**
 * A message that means something only after what was said before finds nothing by its own words: "and on Sunday?". A
 * model can put it so that it is understood alone.
 */

/** Turns before the message that it is understood from, and tokens that the question may have. */
export const turnsBefore = 3;
export const mostOfQuestion = 120;
/** Characters of a question. */
const longestQuestion = 600;

/** What a model is asked, to put a message so that it can be understood alone. @param before the last messages before it */
export function askForQuestion(before: readonly Pick<Message, "role" | "pieces">[], message: string): string {
  return [
    "Rewrite the visitor's last message as one question that can be understood without what was said before: put in the names, times and things that it refers to. Write nothing but that question, in the language of the message. Where it can be understood alone, repeat it as it stands.",
    transcriptOf(before),
    `The last message:\n\n${message}`,
  ].join("\n\n");
}

/** The question in what a model answered; the message itself where there is none. */
export function questionFrom(answer: string, message: string): string {
  const [first = ""] = answer.trim().split("\n");
  const question = first.replace(/^(?:question|visitor)\s*:\s*/i, "").replace(/^["“](.*)["”]$/, "$1");
  return question.trim() === "" ? message : question.trim().slice(0, longestQuestion);
}
