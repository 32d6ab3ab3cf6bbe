import { spawnSync } from "node:child_process";
import { mkdtempSync, rmdirSync, rmSync, statfsSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { expect, test, World } from "./fixtures";

interface JobStanding {
  state: string;
  work: { phase: string };
  problem: { kind: string } | null;
}

const jobOf = (world: World, id: string) => world.bench<JobStanding>("GET", `jobs/${id}`);
const stateOf = async (world: World, id: string) => (await jobOf(world, id)).state;

/** A file of so many conversations of two messages, each of so many characters. */
function fileOf(conversations: number, size = 20): string {
  const line = (conversation: number, role: string) =>
    JSON.stringify({ conversation, role, text: `${role} ${conversation} `.padEnd(size, "ferry ") });
  return Array.from({ length: conversations }, (_, at) => [line(at, "visitor"), line(at, "app")])
    .flat()
    .join("\n");
}

/** Sends a file and has it checked; gives the job. */
async function sent(world: World, slug: string, file: string, size = file.length): Promise<string> {
  const { id } = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, {
    name: "a.jsonl",
    as: "jsonl",
    bytes: size,
  });
  const part = await fetch(`${world.address}/api/bench/jobs/${id}/parts?from=0`, { method: "PUT", body: file });
  if (!part.ok) throw new Error(await part.text());
  return id;
}

async function seen(world: World, slug: string): Promise<number> {
  const { found } = await world.bench<{ found: { of: number } }>("GET", `apps/${slug}/conversations`);
  return found.of;
}

test("an import that was stored is stored, whenever the process is killed, and nothing takes it away", async () => {
  test.setTimeout(240_000);
  const world = await World.make();
  try {
    await world.start();
    const slug = await world.makeApp("Kept");
    const job = await sent(world, slug, fileOf(40));
    await expect.poll(() => stateOf(world, job)).toBe("waiting");
    await world.bench("POST", `jobs/${job}/store`);
    await expect.poll(() => stateOf(world, job)).toBe("done");
    // as a process leaves it that is killed in the moment after the last conversation came into sight
    for (const phase of ["stored", "storing"]) {
      await world.killWeb();
      const database = new Sqlite(join(world.folder, "finch.sqlite"));
      database
        .prepare("UPDATE jobs SET state = 'running', work = json_set(work, '$.phase', ?) WHERE id = ?")
        .run(phase, job);
      database.close();
      if (phase === "storing") writeFileSync(join(world.folder, "imports", job), fileOf(40));
      await world.startWeb();
      await expect.poll(() => stateOf(world, job)).toBe("done");
      expect(await seen(world, slug)).toBe(40);
      expect((await world.bench<JobStanding>("POST", `jobs/${job}/stop`)).state).toBe("done");
      expect(await seen(world, slug)).toBe(40);
    }
    // one that is killed while it is sent says so
    const half = await sent(world, slug, fileOf(5), 100_000);
    await world.killWeb();
    await world.startWeb();
    expect(await jobOf(world, half)).toMatchObject({ state: "stopped", problem: { kind: "interrupted" } });
  } finally {
    await world.stop();
  }
});

test("a full disk has an import wait, which health says; a stop is an end all the same, and with room it goes on", async () => {
  test.skip(process.getuid?.() !== 0, "a small disk can be mounted by root alone");
  test.setTimeout(240_000);
  const folder = mkdtempSync(join(tmpdir(), "finch-disk-"));
  const mounted = spawnSync("mount", ["-t", "tmpfs", "-o", "size=48m", "tmpfs", folder]);
  test.skip(mounted.status !== 0, "a small disk can't be mounted here");
  const world = await World.make(folder);
  const filler = join(folder, "filler");
  const health = async () => {
    const response = await fetch(`${world.address}/api/health`);
    const { problem } = (await response.json()) as { problem: { detail: string } | null };
    return `${response.status} ${problem?.detail ?? ""}`;
  };
  /** Leaves so many bytes free, or all. */
  const leave = (bytes: number | undefined) => {
    rmSync(filler, { force: true });
    if (bytes === undefined) return;
    const { bavail, bsize } = statfsSync(folder);
    writeFileSync(filler, Buffer.alloc(Math.max(bavail * bsize - bytes, 0)));
  };
  try {
    await world.start();
    const slug = await world.makeApp("Full");
    const job = await sent(world, slug, fileOf(1_500, 1_500));
    await expect.poll(() => stateOf(world, job)).toBe("waiting");
    leave(1_500_000);
    await world.bench("POST", `jobs/${job}/store`);
    await expect.poll(health, { timeout: 60_000 }).toMatch(/^503 .*the disk is full/);
    expect(await stateOf(world, job)).toBe("running");
    leave(undefined);
    await expect.poll(() => stateOf(world, job), { timeout: 60_000 }).toBe("done");
    expect(await health()).toBe("200 ");
    expect(await seen(world, slug)).toBe(1_500);

    const second = await sent(world, slug, fileOf(1_000, 1_500));
    await expect.poll(() => stateOf(world, second)).toBe("waiting");
    leave(1_000_000);
    await world.bench("POST", `jobs/${second}/store`);
    await expect.poll(health, { timeout: 60_000 }).toMatch(/^503 /);
    expect((await world.bench<JobStanding>("POST", `jobs/${second}/stop`)).state).toBe("stopped");
    leave(undefined);
    await expect.poll(health, { timeout: 30_000 }).toBe("200 ");
    expect([await stateOf(world, second), await seen(world, slug)]).toEqual(["stopped", 1_500]);
  } finally {
    await world.stop();
    spawnSync("umount", ["-l", folder]);
    rmdirSync(folder);
  }
});
