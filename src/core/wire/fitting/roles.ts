import type { Notes } from "./finding";
import { roleWords } from "./naming";

/** Who speaks in the turns of a pasted conversation. */
export interface DecidedRoles {
  system?: string;
  visitor: string;
  /** Empty where the developer has to say it. */
  app: string;
}

/**
 * Tells the roles from the words of the turns: the system's first, by its word or since it stands before the visitor's and
 * comes once; then the visitor's, who speaks last; then the app's, which is asked where no turn shows it.
 * @param endsWithVisitor false where the newest message stands elsewhere
 */
export function decideRoles(words: readonly string[], notes: Notes, endsWithVisitor = true): DecidedRoles {
  const spoken = [...words];
  const first = spoken[0];
  const isNamedSystem = first !== undefined && roleWords.system.test(first);
  // a prompt may come in several messages
  const begins = isNamedSystem ? spoken.findIndex((word) => word !== first) : 1;
  const others = begins < 0 ? [] : spoken.slice(begins);
  const isOnceBefore = first !== undefined && others.length > 0 && !others.includes(first);
  const isAlone = spoken.length === 2;
  const isSystem =
    first !== undefined &&
    (isNamedSystem ||
      (isOnceBefore && endsWithVisitor && !roleWords.app.test(first) && !roleWords.visitor.test(first))) &&
    others.length > 0;
  const system = isSystem ? first : undefined;
  if (system !== undefined)
    notes.found(
      "request",
      `system prompt is “${system}”`,
      "the first message",
      isNamedSystem || !isAlone ? "sure" : "likely",
    );
  const talk = system === undefined ? spoken : others;
  const visitor =
    (endsWithVisitor ? talk.at(-1) : (talk.find((word) => roleWords.visitor.test(word)) ?? talk.at(0))) ?? "user";
  notes.found(
    "request",
    `visitor is “${visitor}”`,
    endsWithVisitor ? "the last message" : "the messages before",
    "sure",
  );
  const app = talk.find((word) => word !== visitor);
  if (app !== undefined) notes.found("request", `app is “${app}”`, "the messages between", "sure");
  return { system, visitor, app: app ?? askApp(visitor, notes) };
}

/** Asks for the app's word, with those that APIs have beside the visitor's. */
function askApp(visitor: string, notes: Notes): string {
  const usual = /^[A-Z]+$/.test(visitor)
    ? ["ASSISTANT", "MODEL", "BOT", "AI"]
    : /^[A-Z]/.test(visitor)
      ? ["Assistant", "Model", "Bot", "AI"]
      : ["assistant", "model", "bot", "ai"];
  const said = notes.ask({
    id: "app role",
    ask: "What does this API call the app, where it repeats what the app said? The request shows no such message.",
    proposals: usual,
  });
  return said ?? "";
}
