import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { World } from "../e2e/world";
import type { Tally } from "./tally";

interface Asked {
  reply: string;
  message: string;
  conversation: string;
  further: string[];
}

/** What was acknowledged before a kill, and has to be there after it. */
export interface Acknowledged {
  /** Replies that were asked for. */
  replies: string[];
  /** Those of them whose deletion was asked for, answered or not. */
  leaving: string[];
  /** Messages whose deletion was answered. */
  deleted: string[];
  /** Jobs that were begun, and how many conversations an import has. */
  jobs: { id: string; imports?: number }[];
}

const importSize = 40;

/**
 * Takes, lines that part, a branch that is deleted, an import and a conversation that is said again, all of them at
 * once in the conversations of an app; what was answered before the kill is noted.
 */
export function doDeeds(
  world: World,
  slug: string,
  round: number,
): { done: Promise<unknown>; acknowledged: Acknowledged } {
  const acknowledged: Acknowledged = { replies: [], leaving: [], deleted: [], jobs: [] };
  const ask = async (body: object): Promise<Asked> => {
    const asked = await world.bench<Asked>("POST", `apps/${slug}/replies`, body);
    acknowledged.replies.push(asked.reply, ...asked.further);
    return asked;
  };
  const tree = async () => {
    const first = await ask({ message: `Tell me a joke, ${round}` });
    await ask({ again: first.message, count: 3 });
    const other = await ask({ message: `Another line, ${round}`, conversation: first.conversation, after: null });
    const gone = await ask({ message: `One to delete, ${round}`, conversation: first.conversation, after: null });
    // a deletion that the kill cuts off may have been done, or not
    acknowledged.leaving.push(gone.reply);
    await world.bench("DELETE", `messages/${gone.message}`);
    acknowledged.deleted.push(gone.message);
    const { id } = await world.bench<{ id: string }>("POST", `conversations/${other.conversation}/said-again`, {});
    acknowledged.jobs.push({ id });
  };
  const bring = async () => {
    const lines = Array.from({ length: importSize }, (_, at) =>
      ["visitor", "app"].map((role) => JSON.stringify({ conversation: at, role, text: `${role} ${round}.${at}` })),
    ).flat();
    const file = lines.join("\n");
    const { id } = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, {
      name: "a.jsonl",
      as: "jsonl",
      bytes: file.length,
    });
    const sent = await fetch(`${world.address}/api/bench/jobs/${id}/parts?from=0`, { method: "PUT", body: file });
    if (!sent.ok) return;
    for (let job = await jobOf(world, id); job.state === "running"; job = await jobOf(world, id)) await soon();
    await world.bench("POST", `jobs/${id}/store`);
    acknowledged.jobs.push({ id, imports: importSize });
  };
  // whatever the kill cuts off was not acknowledged
  const done = Promise.allSettled([tree(), bring()]);
  return { done, acknowledged };
}

/** Whether all that was acknowledged is there, and jobs go on to their end. */
export async function checkDeeds(
  world: World,
  { replies, leaving, deleted, jobs }: Acknowledged,
  tally: Tally,
): Promise<void> {
  for (const { id, imports } of jobs) {
    let job = await jobOf(world, id);
    for (let tries = 0; job.state === "running" && tries < 200; tries += 1) {
      await soon();
      job = await jobOf(world, id);
    }
    tally.count("jobs");
    tally.expects(job.state === "done", `job ${id} is ${job.state}: ${JSON.stringify(job).slice(0, 600)}`);
    if (imports === undefined) continue;
    const found = inDatabase(world, (database) =>
      database.prepare("SELECT count(*) FROM conversations WHERE job_id = ? AND deleted_at IS NULL").pluck().get(id),
    );
    tally.expects(found === imports, `import ${id} has ${found} conversations of ${imports}`);
  }
  const there = inDatabase(world, (database) => {
    const state = database.prepare("SELECT state FROM messages WHERE id = ? AND is_leaving = 0").pluck();
    const isGone = database.prepare("SELECT 1 FROM messages WHERE id = ? AND is_leaving = 0").pluck();
    return {
      lost: replies.filter((id) => state.get(id) === undefined),
      seen: deleted.filter((id) => isGone.get(id) !== undefined),
    };
  });
  tally.count("replies and takes", replies.length);
  tally.count("branches deleted", deleted.length);
  const lost = there.lost.filter((id) => !leaving.includes(id));
  tally.expects(lost.length === 0, `${lost.length} replies are gone that were acknowledged`);
  tally.expects(there.seen.length === 0, "a branch is there again that was deleted");
}

/** Whether every tree is one, and every word is found in the message that says it. */
export function checkTrees(world: World, tally: Tally): void {
  const counts: [what: string, sql: string][] = [
    [
      "messages without the one before them",
      "SELECT count(*) FROM messages AS m LEFT JOIN messages AS p ON p.id = m.parent_id WHERE m.parent_id IS NOT NULL AND (p.id IS NULL OR p.conversation_id <> m.conversation_id OR p.depth + 1 <> m.depth)",
    ],
    [
      "lines that end with nothing",
      "SELECT count(*) FROM conversations AS c LEFT JOIN messages AS m ON m.id = c.tip_id WHERE c.is_leaving = 0 AND (m.id IS NULL OR m.is_leaving = 1 OR m.conversation_id <> c.id)",
    ],
    [
      "messages whose words are not found",
      "SELECT abs((SELECT count(*) FROM words) - (SELECT count(*) FROM messages WHERE words_id IS NOT NULL))",
    ],
  ];
  inDatabase(world, (database) => {
    for (const [what, sql] of counts) {
      const count = database.prepare(sql).pluck().get() as number;
      tally.expects(count === 0, `${count} ${what}`);
    }
  });
}

function jobOf(world: World, id: string): Promise<{ state: string; problem: object | null }> {
  return world.bench("GET", `jobs/${id}`);
}

function inDatabase<T>(world: World, read: (database: Sqlite.Database) => T): T {
  const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
  try {
    return read(database);
  } finally {
    database.close();
  }
}

const soon = () => new Promise((resolve) => setTimeout(resolve, 50));
