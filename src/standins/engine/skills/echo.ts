import type { Skill } from "../scene";

/** Says the words that it is told to say. */
export const echo: Skill<string> = {
  name: "words to repeat",
  about: /$^/,
  read: (message) => /\b(?:repeat|say|answer with|reply with)\b[^"“]{0,20}["“](.+?)["”]/i.exec(message)?.[1],
  say: (words) => words,
};
