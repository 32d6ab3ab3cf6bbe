import type { Message } from "../conversation/message";
import { type Piece, textOf } from "../conversation/pieces";
import { added, type Counts, countsOf, type Holding, together, without } from "../tokens/counts";
import { fittedMessage } from "../wire/split";

/** How messages and a summary are written where they are carried as text in the system prompt. */
const labels: Record<Message["role"], string> = { visitor: "Visitor: ", app: "App: " };
const heads = { messages: "What was said before:", summary: "What was said before that, in short:" };
const gap = "\n\n";

/** Messages as text: calls of tools are told in words, and a picture is only named. */
export function transcriptOf(messages: readonly { role: Message["role"]; pieces: Piece[] }[]): string {
  return [
    heads.messages,
    ...messages.map((message) => labels[message.role] + textOf(fittedMessage(message, asWords))),
  ].join(gap);
}

const asWords = {
  picture: "left-out",
  addresses: false,
  tool: "told",
  offersTools: false,
  choosesTools: false,
  takesSchema: false,
} as const;

/** A summary as it stands in the system prompt. */
export function summaryPart(text: string): string {
  return `${heads.summary}${gap}${text}`;
}

/** The system prompt with the summary that goes along in it, as it stands before a transcript. @param summary its text */
export function headOf(prompt: string, summary: string | undefined): string {
  return promptOf([prompt, summary === undefined ? "" : summaryPart(summary)]);
}

/** Parts of a system prompt, those that are empty left out. */
export function promptOf(parts: readonly string[]): string {
  return parts.filter((part) => part.trim() !== "").join(gap);
}

/** What a text holds that a word follows. */
function countsBefore(text: string): Counts {
  return without(countsOf(`${text}a`), countsOf("a"));
}

/** What such a part holds beside the texts in it: the head before it, and the gap that parts it from what is above. */
export const headHolding: Record<keyof typeof heads, Holding> = {
  messages: { counts: countsOf(gap + heads.messages), messages: 0 },
  summary: { counts: countsBefore(gap + heads.summary + gap), messages: 0 },
};

/** What the labels of one turn hold, whose two messages are then none of their own. */
export const labelsOfTurn = added(countsBefore(gap + labels.visitor), countsBefore(gap + labels.app));

/** What turns hold as text in the system prompt: labels instead of the borders of messages. */
export function asText({ counts, messages }: Holding): Holding {
  const turns = messages / 2;
  const all = Object.fromEntries(
    Object.entries(labelsOfTurn).map(([name, count]) => [name, count * turns]),
  ) as Holding["counts"];
  return together({ counts, messages: 0 }, { counts: all, messages: 0 });
}
