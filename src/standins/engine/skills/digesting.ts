import type { Skill } from "../scene";
import { summaryOf } from "../summary";
import { sentencesOf } from "../words";

const asking = /\bWrite a digest of it in at most (\d+) words\b[\s\S]*?\n\nThe text:\n([\s\S]+)$/;

interface Wanted {
  words: number;
  text: string;
}

/** Makes a text smaller that is to stand in the place of the whole: what holds names, times, numbers and decisions, under its headings. */
export const digesting: Skill<Wanted> = {
  name: "a digest of a text",
  isAlways: true,
  about: /$^/,
  read(message) {
    const [, words, text] = asking.exec(message) ?? [];
    return text === undefined ? undefined : { words: Number(words), text };
  },
  say({ words, text }) {
    const sections = sectionsOf(text);
    const all = sections.reduce((sum, { body }) => sum + wordsIn(body), 0) || 1;
    const said = sections.flatMap(({ heading, body }) => {
      const share = Math.floor((words * wordsIn(body)) / all) - wordsIn(heading);
      const short = share < 4 ? "" : summaryOf(body, share) || firstOf(body, share);
      return short === "" ? [] : [[heading, short].filter(Boolean).join("\n")];
    });
    return said.length > 0 ? said.join("\n\n") : firstOf(text, words);
  },
};

/** What stands under each heading of a text. */
function sectionsOf(text: string): { heading: string; body: string }[] {
  const sections: { heading: string; body: string }[] = [];
  for (const line of text.split("\n")) {
    if (/^#{1,6} /.test(line)) sections.push({ heading: line, body: "" });
    else if (line.trim() !== "") {
      const last = sections.at(-1) ?? { heading: "", body: "" };
      if (sections.length === 0) sections.push(last);
      last.body = `${last.body}\n${line}`.trim();
    }
  }
  return sections;
}

/** The first sentences of a text that have so many words together; else its first words. */
function firstOf(text: string, words: number): string {
  let said = "";
  for (const sentence of text.split("\n").flatMap(sentencesOf)) {
    if (wordsIn(said) + wordsIn(sentence) > words) break;
    said = `${said} ${sentence}`.trim();
  }
  return said || text.trim().split(/\s+/).slice(0, words).join(" ");
}

function wordsIn(text: string): number {
  return text.split(/\s+/).filter(Boolean).length;
}
