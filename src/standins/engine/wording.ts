import type { Choices } from "./random";

const openings = [
  "",
  "Gladly.",
  "Here is what I know.",
  "Let me put it plainly.",
  "That is a fair question.",
  "With pleasure.",
  "This much I can say.",
  "Straight to it.",
  "Good that you ask.",
  "In a few words.",
];
const closings = [
  "",
  "Ask on if you like.",
  "Say so if you want more of it.",
  "I hope that helps.",
  "Tell me if another form would suit you better.",
  "Let me know if something is missing.",
  "Ask again if it is not clear.",
];

/** An answer in words that the seed chooses, none of which says anything of its own. */
export function worded(text: string, choices: Choices, isBrief: boolean): string {
  const [opening, closing] = choices.pair(openings, isBrief ? [""] : closings);
  const gap = text.includes("\n") ? "\n\n" : " ";
  return [opening, text, closing].filter(Boolean).join(gap);
}

/** A text without such words around it. */
export function unworded(text: string): string {
  const opening = openings.find(
    (each) => (each !== "" && text.startsWith(`${each} `)) || (each !== "" && text.startsWith(`${each}\n`)),
  );
  const begun = opening ? text.slice(opening.length).trim() : text;
  const closing = closings.find((each) => each !== "" && begun.endsWith(each));
  return closing ? begun.slice(0, -closing.length).trim() : begun;
}
