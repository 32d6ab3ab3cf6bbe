import type { Skill } from "../scene";
import { sentencesOf } from "../words";

const asking = /^[\s\S]*\bquestion that a visitor would ask\b[\s\S]*\n\nThe passage:\n([\s\S]+)$/;
/** Words that say little of what a sentence is about. */
const empty =
  /^(?:about|after|also|before|being|between|could|every|first|other|should|their|there|these|those|under|until|where|which|while|would)$/;

/** Proposes a question that a passage answers: about the weightiest words of one of its sentences, and that sentence. */
export const proposing: Skill<{ passage: string }> = {
  name: "a question on a passage",
  isAlways: true,
  about: /$^/,
  read(message) {
    const [, passage] = asking.exec(message) ?? [];
    return passage === undefined ? undefined : { passage };
  },
  say({ passage }) {
    const lines = passage.split("\n").flatMap(sentencesOf);
    const answer = lines.toSorted((a, b) => weightOf(b) - weightOf(a))[0] ?? passage.trim();
    const words = [...new Set(answer.toLowerCase().match(/\p{L}{4,}/gu) ?? [])].filter((word) => !empty.test(word));
    const topics = words.toSorted((a, b) => b.length - a.length).slice(0, 2);
    return `What holds for ${topics.join(" and ") || "this"}?\n${answer}`;
  },
};

/** A sentence of some length tells more than a heading, or than a very long one. */
function weightOf(sentence: string): number {
  return sentence.length > 240 ? 0 : sentence.length;
}
