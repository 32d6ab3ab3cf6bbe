import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { World } from "../e2e/world";

export interface JobStanding {
  state: string;
  done: number;
  of: number;
  problem: object | null;
}

export function jobOf(world: World, id: string): Promise<JobStanding> {
  return world.bench("GET", `jobs/${id}`);
}

/** A job once it has come to a state, or to another that it does not leave by itself, or as it stands after a while. */
export async function settled(world: World, id: string, state: string): Promise<JobStanding> {
  let job = await jobOf(world, id);
  for (let tries = 0; job.state !== state && tries < 600; tries += 1) {
    if (job.state === "failed") return job;
    await new Promise((resolve) => setTimeout(resolve, 50));
    job = await jobOf(world, id);
  }
  return job;
}

/** A file of so many conversations of two messages, each of so many characters. */
export function fileOf(conversations: number, size = 20): string {
  const line = (conversation: number, role: string) =>
    JSON.stringify({ conversation, role, text: `${role} ${conversation} `.padEnd(size, "ferry ") });
  return Array.from({ length: conversations }, (_, at) => [line(at, "visitor"), line(at, "app")])
    .flat()
    .join("\n");
}

/** Bytes of a file that are sent at once. */
const partSize = 4_000_000;

/** Sends a file, which is then checked; gives the job. @param size that is said of it */
export async function sent(world: World, slug: string, file: string, size = file.length): Promise<string> {
  const about = { name: "a.jsonl", as: "jsonl", bytes: size };
  const { id } = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, about);
  for (let from = 0; from < file.length; from += partSize) {
    const body = file.slice(from, from + partSize);
    const part = await fetch(`${world.address}/api/bench/jobs/${id}/parts?from=${from}`, { method: "PUT", body });
    if (!part.ok) throw new Error(await part.text());
  }
  return id;
}

/** Conversations of an import that are in sight. */
export function countOfImport(world: World, job: string): number {
  const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
  try {
    return database
      .prepare<[string]>(
        "SELECT count(*) FROM conversations WHERE job_id = ? AND deleted_at IS NULL AND is_leaving = 0",
      )
      .pluck()
      .get(job) as number;
  } finally {
    database.close();
  }
}
