import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import pino from "pino";
import { assemble } from "@/core/context/assemble";
import type { Message } from "@/core/conversation/message";
import { piecesOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { uncalibrated } from "@/core/tokens/calibration";
import { encode } from "@/core/wire/encode";
import { compileProfile } from "@/core/wire/profile";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { openFolder } from "@/server/boot";
import { ConversationStore } from "@/server/conversations/conversation-store";
import { MessageStore } from "@/server/conversations/message-store";
import type { Home } from "@/server/home";
import { quantile } from "./rig";
import type { Row } from "./row";

const conversations = 60_000;
const pageSize = 21;
const rounds = 300;
const longLine = 10_000;

export const content: Content = {
  prompt: "You are the desk of a ferry line.",
  variables: {},
  provider: "p",
  model: "m",
  settings: { maxOutput: 500 },
  memory: { kind: "everything" },
};

/** What needs no server: a page at the end of a long list ÷ its first, and assembling a long line ÷ its texts assembled bare. */
export function storeRows(): Promise<Row[]> {
  return inFolder((home, app) => [pageRow(home, app), assembleRow(home, app)]);
}

/** Rows that are measured on the stores of a folder of their own. */
export async function inFolder(measure: (home: Home, app: string) => Row[] | Promise<Row[]>): Promise<Row[]> {
  const folder = mkdtempSync(join(tmpdir(), "finch-bench-"));
  const home = openFolder(folder, () => pino({ level: "silent" }));
  try {
    const app = home.apps.make("Bench", content, 1).id;
    return await measure(home, app);
  } finally {
    home.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

function pageRow(home: Home, app: string): Row {
  const visitor = home.visitors.add(app, {}, 1);
  home.database
    .transaction(() => {
      for (let at = 0; at < conversations; at++)
        home.conversations.create({
          app,
          visitor,
          origin: "page",
          opening: "When does the boat leave?",
          now: at,
        });
    })
    .immediate();
  const first = { updatedAt: Number.MAX_SAFE_INTEGER, id: "" };
  const last = { updatedAt: pageSize, id: "z" };
  const read = (place: typeof first) => () => home.conversations.ofVisitor(visitor, app, place, pageSize);
  return {
    what: `a visitor's list: last page ÷ first of ${conversations.toLocaleString("en")} conversations`,
    ratio: timed(read(last), rounds) / timed(read(first), rounds),
    bar: 1.5,
    isMost: true,
  };
}

function assembleRow(home: Home, app: string): Row {
  const conversation = longConversation(home.database, app, longLine);
  const end = home.conversations.byId(conversation)?.tip ?? "";
  const profile = compileProfile(shippedProfiles["chat-completions"]);
  const window = 10_000_000;
  const ours = () => {
    const line = home.messages.line(end, 64);
    const above = home.messages.above(line[0] as Message);
    const asked = {
      content,
      variables: {},
      by: { provider: "P", model: "m" },
      window,
      calibration: uncalibrated,
      now: 0,
    };
    const assembled = assemble(asked, line, above);
    if (assembled.kind !== "ready") throw new Error("It could not be assembled.");
    const { messages } = assembled;
    return encode(profile, { model: "m", stream: true, messages, settings: content.settings }).body?.length;
  };
  const texts = home.database.prepare<[string], { role: string; pieces: string }>(
    "SELECT role, pieces FROM messages WHERE conversation_id = ? ORDER BY depth",
  );
  const bare = () => {
    const messages = texts.all(conversation).map(({ role, pieces }) => ({
      role: role === "app" ? "assistant" : "user",
      content: JSON.parse(pieces)[0].text,
    }));
    messages.unshift({ role: "system", content: content.prompt });
    return JSON.stringify({ model: "m", messages, max_tokens: 500, stream: true }).length;
  };
  return {
    what: `assembling ${longLine.toLocaleString("en")} messages under “everything” ÷ the same texts assembled bare`,
    ratio: timed(ours, 15) / timed(bare, 15),
    bar: 1.5,
    isMost: true,
  };
}

/** A conversation of so many messages, which ends with a reply; gives its id. */
export function longConversation(database: Sqlite.Database, app: string, length: number): string {
  const [conversations, messages] = [new ConversationStore(database), new MessageStore(database)];
  return database
    .transaction(() => {
      const { id } = conversations.create({ app, visitor: null, origin: "bench", opening: "Hello", now: 1 });
      const facts = { revision: 1, provider: "P", model: "m" };
      let end: ReturnType<MessageStore["message"]>;
      for (let turn = 1; turn <= length / 2; turn++) {
        const pieces = piecesOf(`And which boat takes ${turn} bicycles to Tansy Holm on a Sunday?`);
        const said = messages.addVisitorMessage({ conversation: id, parent: end, pieces, now: 1 });
        const reply = messages.addReply({ conversation: id, parent: said, continues: null, facts, now: 1 });
        const answer = piecesOf(
          `The 9:40, which has eight places; ${turn} of them would be taken, and the ramp is wide.`,
        );
        messages.finishReply({ id: reply.id, state: "complete", pieces: answer, reported: 30, facts });
        end = messages.message(reply.id);
      }
      return id;
    })
    .immediate();
}

/** Makes a long conversation in a data folder that a server has open; gives its id. */
export function longConversationIn(folder: string, app: string, messages: number): string {
  const database = new Sqlite(join(folder, "finch.sqlite"));
  try {
    return longConversation(database, app, messages);
  } finally {
    database.close();
  }
}

/** Milliseconds that a call takes, by the median of so many. */
export function timed(call: () => unknown, count: number): number {
  for (let warm = 0; warm < 3; warm++) call();
  const taken = Array.from({ length: count }, () => {
    const started = performance.now();
    call();
    return performance.now() - started;
  });
  return quantile(taken, 0.5);
}
