import { many } from "../format";

interface Words {
  /** In the bar. */
  short: string;
  /** In the ledger. @param count of what it consists of */
  long: (count: number) => string;
}

/** What the parts of a context are called; one of another kind by that. */
const words: Record<string, Words> = {
  prompt: { short: "prompt", long: () => "System prompt" },
  tools: { short: "tools", long: (count) => many(count, "tool") },
  schema: { short: "schema", long: () => "Schema of the reply" },
  explaining: { short: "words on passages", long: () => "Words that explain passages" },
  passages: { short: "passages", long: (count) => many(count, "passage") },
  opening: { short: "opening", long: (count) => `Opening, ${many(count, "message")}` },
  summary: { short: "summary", long: () => "Summary" },
  pins: { short: "pinned", long: () => "Pinned turns" },
  turns: { short: "turns", long: () => "Turns" },
  message: { short: "new message", long: () => "The message that is written" },
  exchange: {
    short: "said so far",
    long: (count) => (count > 0 ? `The reply so far, ${many(count, "call")} of tools` : "The reply so far"),
  },
  pictures: { short: "pictures", long: (count) => many(count, "picture") },
  reply: { short: "kept for the reply", long: () => "Kept for the reply" },
};

/** What a part is called in the bar. */
export function shortWords(kind: string): string {
  return words[kind]?.short ?? kind;
}

/** What a part is called in the ledger. */
export function longWords(kind: string, count = 0): string {
  return words[kind]?.long(count) ?? (count > 0 ? `${kind}, ${count}` : kind);
}
