import { atLength } from "../long";
import type { Choices } from "../random";
import type { Scene, Skill } from "../scene";
import { ferry } from "../world";
import { type Piece, pieces } from "../writings";

interface Wanted {
  piece: Piece;
  /** What it is about, in the words of the message. */
  about: string;
  /** Whom a letter goes to. */
  to?: string;
  /** How many were written before this one. */
  turn: number;
  /** What was asked to be different. */
  change?: "shorter" | "formal" | "why";
  /** The message that asked for it. */
  asked: string;
}

const kinds: [Piece, RegExp][] = [
  ["poem", /\b(?:poem|verse|haiku|rhyme|limerick)\b/i],
  ["letter", /\b(?:letter|e-?mail|invitation|note to)\b/i],
  ["plan", /\b(?:plan|schedule|itinerary|routine|programme)\b/i],
  ["checklist", /\b(?:checklist|check list|packing list|to-?do list|things to (?:pack|bring|do))\b/i],
  ["outline", /\b(?:outline|table of contents|structure for|talking points|agenda)\b/i],
  ["ideas", /\b(?:ideas|suggestions|names|titles|slogans)\b/i],
];
const making =
  /\b(?:write|make|give|draft|create|compose|prepare|plan|suggest|need|want|come up|show|tell|draw up|help)\b/i;

/** Makes things up in the form asked for: a poem, a letter, a plan, a checklist, an outline, ideas; long texts too. */
export const writing: Skill<Wanted> = {
  name: "something to write",
  about: /\b(?:writ\w+|poe\w+|letters?|plan\w*|travel\w*|stor\w+|text\w*)\b/i,
  read(message, before) {
    const text = message.replace(/timetable/gi, "");
    const kind = kinds.find(([, pattern]) => pattern.test(text))?.[0];
    const isLong =
      /\b(?:stor(?:y|ies)|essay|handbook|guide|report|manual|tale)\b|\bat length\b|\b\d{3,} (?:words|tokens)\b|\b(?:long|detailed|full) (?:\w+ )?(?:text|account|description|reply|answer|checklist)\b/i.test(
        text,
      );
    if ((kind || isLong) && making.test(text) && !/^what\b.*\bplan\b/i.test(text))
      return {
        piece: isLong && kind !== "outline" && kind !== "plan" ? "long" : (kind ?? "long"),
        about: subjectOf(text),
        to: /\bto (?:my |the |our )?([\p{L} ]+?)(?: about| that| saying| asking|,|\.|$)/iu.exec(text)?.[1],
        turn: 0,
        asked: text,
      };
    if (!before) return undefined;
    if (/\b(?:another|one more|a different|a new one|again)\b/i.test(text))
      return { ...before, turn: before.turn + 1, change: undefined };
    if (/\bmore formal\b|\bformally\b/i.test(text)) return { ...before, change: "formal" };
    if (/^why\b/i.test(text.trim())) return { ...before, change: "why" };
    const about = /\b(?:and |now |one |the same |same )(?:about|for|on)\s+(?:a |an |the )?([\p{L} ]+)/iu.exec(
      text,
    )?.[1];
    return about ? { ...before, about: about.trim(), turn: before.turn } : undefined;
  },
  say(wanted, scene) {
    const { piece, asked, change, turn } = wanted;
    if (change === "why")
      return `It follows from what you asked for: ${wanted.about || "the form"}, and the order in which it is needed.`;
    const choices = turned(scene.choices, turn);
    if (piece === "long") return atLength(asked, choices, scene.facts.name);
    const about = wanted.about || (ferry.test(scene.prompt) ? "the crossing" : "an ordinary day");
    return pieces[piece]({ about, to: wanted.to, from: signer(scene), isFormal: change === "formal", choices, asked });
  },
};

/** Other choices for each further piece. */
function turned(choices: Choices, turn: number): Choices {
  for (let at = 0; at < turn * 7; at++) choices.next();
  return choices;
}

function signer({ facts, manner }: Scene): string | undefined {
  return facts.name ?? manner.name;
}

/** What a message says that the piece is about. */
function subjectOf(text: string): string {
  const about =
    /\b(?:about|on|of|on the subject of)\s+(?:a |an |the |my |our )?([\p{L}\p{N}' -]+?)(?:,| in | as | with | that | to |\.|\?|!|$)/iu.exec(
      text,
    )?.[1] ??
    /\bfor (?:a |an |the |my |our |moving )?([\p{L}\p{N}' -]+?)(?:,| in | as | with | that |\.|\?|!|$)/iu.exec(
      text,
    )?.[1];
  const planned = /\bplan\s+(?:for\s+)?(?:a |an |the |my |our )?([\p{L}\p{N}' -]+?)[.?!]*$/iu.exec(text)?.[1];
  return (about ?? planned)?.replace(/^\d+ words$/, "").trim() ?? "";
}
