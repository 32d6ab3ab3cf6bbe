import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { NumberedEvent } from "@/core/reply/events";
import { textIn, type World } from "../e2e/world";
import { Caller, readAll, sings } from "./caller";
import { checkDeeds, checkTrees, doDeeds } from "./deeds";
import type { Tally } from "./tally";

const stream = { accept: "text/event-stream" };
/** Streams that are read when the server is killed. */
const streams = 6;

/** Kills the server in the middle of many replies, again and again; what a reader had must be there afterwards. */
export async function kills(world: World, tally: Tally, rounds: number): Promise<void> {
  const slug = await world.makeApp("Killed", { settings: {} });
  for (let round = 0; round < rounds; round++) {
    await world.pace(200);
    const readers = await Promise.all(
      Array.from({ length: streams }, async (_, at) => {
        const caller = new Caller(world, slug);
        const had: NumberedEvent[] = [];
        const response = await caller.ask({ message: `Tell me a story about the ferry, ${round}.${at}` }, stream);
        return { caller, had, whole: readAll(response, had) };
      }),
    );
    const { done, acknowledged } = doDeeds(world, slug, round);
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 800));
    await world.killWeb();
    await Promise.all([done, ...readers.map(({ whole }) => whole)]);
    await world.pace("instant");
    const began = performance.now();
    await world.startWeb();
    tally.count("ms of starting again, in all", Math.round(performance.now() - began));
    checkDatabase(world, tally);
    for (const { caller, had } of readers) await check(caller, had, tally);
    await checkDeeds(world, acknowledged, tally);
    checkTrees(world, tally);
    const silence = await sings(world, slug);
    tally.expects(silence === undefined, `round ${round}: ${silence}`);
    tally.count("kills");
  }
}

/** Whether all that a reader had is given again, with an end. */
async function check(caller: Caller, had: NumberedEvent[], tally: Tally): Promise<void> {
  const [head] = had;
  if (head?.event !== "reply") {
    tally.count("replies without an event yet");
    return;
  }
  const path = `replies/${head.data.reply}`;
  const again = await readAll(await caller.call(path, { headers: stream }));
  const isSame = JSON.stringify(again.slice(0, had.length)) === JSON.stringify(had);
  tally.count("events that readers had", had.length);
  tally.expects(isSame, `${head.data.reply}: of ${had.length} events not all were given again`);
  const last = again.at(-1)?.event;
  tally.expects(last === "problem" || last === "end", `${head.data.reply} has no end`);
  const standing = (await (await caller.call(path)).json()) as { text: string; state: string };
  tally.expects(standing.text === textIn(again), `${head.data.reply}: its text is not that of its events`);
  tally.expects(["interrupted", "complete"].includes(standing.state), `${head.data.reply} is ${standing.state}`);
}

function checkDatabase(world: World, tally: Tally): void {
  const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
  tally.expects(database.pragma("integrity_check", { simple: true }) === "ok", "the database is damaged");
  const underWay = database
    .prepare(
      `SELECT count(*) FROM messages JOIN conversations ON conversations.id = conversation_id
       WHERE state IN ('waiting', 'arriving') AND origin <> 'job'`,
    )
    .pluck()
    .get() as number;
  tally.expects(underWay === 0, `${underWay} replies are under way that nobody makes`);
  database.close();
}
