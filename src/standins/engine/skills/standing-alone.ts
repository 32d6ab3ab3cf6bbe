import type { Skill } from "../scene";

interface Wanted {
  /** What was asked before, and the message that is to be understood without it. */
  before: string | undefined;
  last: string;
}

const asking =
  /\b(?:rewrite|rephrase|reword|put)\b[^.]*\b(?:message|question)\b[^.]*\b(?:understood|stands?|read)\b[^.]*\b(?:alone|without what was said before|by itself)\b/i;
/** How a message begins that leans on the one before it. */
const leans = /^(?:and|but|or|then|so|what about|how about|also|why|it|they|that|this|there|those|these)\b/i;
/** Words below which a message hardly stands alone. */
const fewest = 4;

/** Puts a message so that it is understood without what was said before. */
export const standingAlone: Skill<Wanted> = {
  name: "a question that stands alone",
  isAlways: true,
  about: /$^/,
  read(message) {
    if (!asking.test(message)) return undefined;
    const [record = "", last] = message.split(/\n\s*the last message:\s*/i);
    if (last === undefined) return undefined;
    const asked = Array.from(record.matchAll(/^(?:visitor|user):\s*(.+)$/gim), ([, text = ""]) => text.trim());
    return { before: asked.findLast((each) => !isLeaning(each)) ?? asked.at(-1), last: last.trim() };
  },
  say({ before, last }) {
    if (before === undefined || !isLeaning(last)) return last;
    return `${before.replace(/[?.!\s]+$/, "")}, ${last.charAt(0).toLowerCase()}${last.slice(1)}`;
  },
};

function isLeaning(message: string): boolean {
  return leans.test(message) || message.split(/\s+/).length < fewest;
}
