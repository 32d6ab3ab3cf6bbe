import { checkFrom, type SaidTurn } from "@/core/checks/from-turns";
import { parseScript } from "@/core/checks/parse";
import { isScriptName } from "@/core/checks/script";
import { textOf } from "@/core/conversation/pieces";
import { turnsOf } from "@/core/conversation/turns";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasConversations, StoredConversation } from "../conversations/conversation-store";
import type { HasMarks } from "../conversations/mark-store";
import type { HasMessages } from "../conversations/message-store";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasScripts } from "./script-store";
import { scriptsOf, writeScript } from "./scripts";

/** What of the process is used here. */
export type FromConversationNeeds = HasScripts & HasApps & HasConversations & HasMessages & HasMarks & HasChanges;

/** Turns of a conversation of which a check is made: of more, the last. */
const mostTurns = 40;

/**
 * Makes a check of a stored conversation, and writes it at the end of a script.
 * @param reply the reply that it is about: the turns before it are given; without it all replies become expectations
 * @param marksOf facts that were marked to a question
 * @throws {Refusal} `conflict` where nothing was answered
 */
export function checkFromConversation(
  home: FromConversationNeeds,
  app: StoredApp,
  conversation: StoredConversation,
  reply: string | undefined,
  marksOf: (question: string) => SaidTurn["marks"],
): { script: string; check: string } {
  const { messages, marks, apps } = home;
  const end = reply ?? conversation.tip;
  const line = end === null ? [] : messages.line(end);
  const ratings = marks.ratingsOf(line.map(({ id }) => id));
  const turns = turnsOf(line).flatMap(({ visitor, reply: given }): SaidTurn[] => {
    const said = { visitor: textOf(visitor).trim(), app: given ? textOf(given).trim() : "" };
    if (!given || said.visitor === "" || said.app === "") return [];
    const { bench, visitor: ofVisitor } = ratings.get(given.id) ?? {};
    return [
      {
        ...said,
        rating: bench ?? ofVisitor ?? null,
        isCorrected: given.facts.hand === "corrected",
        marks: marksOf(said.visitor),
      },
    ];
  });
  const last = turns.at(-1);
  if (!last) refuse("conflict", "Nothing was answered in this conversation yet.");
  const prompt = apps.revision(app.id, app.liveRevision)?.content.prompt ?? "";
  const { scripts } = scriptsOf(home, app);
  const script = scripts[0] ?? { name: isScriptName(app.slug) ? app.slug : "checks", text: "", hash: null };
  const taken = new Set(scripts.flatMap(({ text }) => parseScript(text).script.checks.map(({ name }) => name)));
  const name = freeName(
    nameOf(reply === undefined ? (conversation.title ?? turns[0]?.visitor ?? "") : last.visitor),
    taken,
  );
  const some = turns.slice(-mostTurns);
  const text = checkFrom({
    name,
    before: reply === undefined ? [] : some.slice(0, -1),
    asked: reply === undefined ? some : [last],
    prompt,
  });
  const before = script.text.trimEnd();
  writeScript(home, app, script.name, { text: before === "" ? text : `${before}\n\n${text}`, was: script.hash });
  return { script: script.name, check: name };
}

/** Characters of a name that a check gets by itself. */
const longestName = 60;

function nameOf(words: string): string {
  const line = words.replace(/\s+/g, " ").trim();
  return line.length > longestName ? `${line.slice(0, longestName - 1).trimEnd()}…` : line || "a conversation";
}

function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  for (let number = 2; ; number++) if (!taken.has(`${name} (${number})`)) return `${name} (${number})`;
}
