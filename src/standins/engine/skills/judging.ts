import type { Skill } from "../scene";
import { sentencesOf } from "../words";

interface Wanted {
  rubric: string;
  reply: string;
}

const asking = /^The rubric:\n([\s\S]+?)\n\n(?:What the visitor said:\n[\s\S]*?\n\n)?The reply:\n([\s\S]*)$/;

/** Traits that a rubric may name, and how a reply shows them. */
const traits: readonly { named: RegExp; name: string; shows: (reply: string) => boolean }[] = [
  {
    named: /\b(?:polite|courteous|friendly|kind)\b/i,
    name: "polite words",
    shows: (reply) => /\b(?:please|thank|thanks|welcome|gladly|sorry|pleasure|kindly|good day)\b/i.test(reply),
  },
  {
    named: /\b(?:prices?|costs?|fares?)\b/i,
    name: "a price",
    shows: (reply) => /€|\beuros?\b|\bfree\b/i.test(reply),
  },
  { named: /\b(?:times?|hours?|departures?)\b/i, name: "a time", shows: (reply) => /\b\d{1,2}[:.]\d{2}\b/.test(reply) },
  {
    named: /\b(?:apolog\w+|sorry)\b/i,
    name: "an apology",
    shows: (reply) => /\b(?:sorry|apolog\w+|regret)\b/i.test(reply),
  },
  { named: /\b(?:asks?|question)\b/i, name: "a question", shows: (reply) => reply.includes("?") },
  {
    named: /\b(?:offers?|suggests?|alternatives?|another)\b/i,
    name: "an offer",
    shows: (reply) => /\b(?:instead|another|or you|you can|you may|could|alternatively)\b/i.test(reply),
  },
  {
    named: /\b(?:short|brief|one sentence)\b/i,
    name: "brevity",
    shows: (reply) => sentencesOf(reply).length <= 1,
  },
];

/** Judges a reply by a rubric: by the traits that it names, or else by its words. */
export const judging: Skill<Wanted> = {
  name: "a reply that is to be judged",
  isAlways: true,
  about: /$^/,
  read(message) {
    const [, rubric, reply] = asking.exec(message) ?? [];
    return rubric === undefined || reply === undefined ? undefined : { rubric, reply };
  },
  say({ rubric, reply }) {
    const named = traits.filter((trait) => trait.named.test(rubric));
    const missed = named.filter((trait) => !trait.shows(reply)).map(({ name }) => name);
    if (missed.length > 0) return `No: the reply has not ${missed.join(", nor ")}.`;
    if (named.length > 0) return `Yes: the reply has ${named.map(({ name }) => name).join(" and ")}.`;
    const words = rubric.toLowerCase().match(/\p{L}{4,}/gu) ?? [];
    const shared = words.filter((word) => reply.toLowerCase().includes(word));
    return shared.length * 2 >= words.length
      ? `Yes: the reply speaks of ${shared.join(", ") || "what is asked for"}.`
      : "No: the reply does not speak of what the rubric asks for.";
  },
};
