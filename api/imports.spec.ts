import { writeFileSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { expect, test, World } from "../e2e/fixtures";
import { SmallDisk } from "../scripts/small-disk";
import { fileOf, type JobStanding, jobOf, sent } from "./import-file";

const stateOf = async (world: World, id: string) => (await jobOf(world, id)).state;

async function seen(world: World, slug: string): Promise<number> {
  const { conversations } = await world.bench<{ conversations: number }>("GET", `apps/${slug}/history-count`);
  return conversations;
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
  const disk = SmallDisk.mount(48);
  test.skip(!disk, "a small disk can't be mounted here");
  if (!disk) return;
  const world = await World.make(disk.folder);
  const health = () => world.health();
  try {
    await world.start();
    const slug = await world.makeApp("Full");
    const job = await sent(world, slug, fileOf(1_500, 1_500));
    await expect.poll(() => stateOf(world, job)).toBe("waiting");
    disk.leave(1_500_000);
    await world.bench("POST", `jobs/${job}/store`);
    await expect.poll(health, { timeout: 60_000 }).toMatch(/^503 .*the disk is full/);
    expect(await stateOf(world, job)).toBe("running");
    disk.free();
    // as soon as something of it could be written, and not at its end
    await expect.poll(health, { timeout: 30_000 }).toBe("200 ");
    expect(await stateOf(world, job)).toBe("running");
    await expect.poll(() => stateOf(world, job), { timeout: 120_000 }).toBe("done");
    expect(await seen(world, slug)).toBe(1_500);

    const second = await sent(world, slug, fileOf(1_000, 1_500));
    await expect.poll(() => stateOf(world, second)).toBe("waiting");
    disk.leave(1_000_000);
    await world.bench("POST", `jobs/${second}/store`);
    await expect.poll(health, { timeout: 60_000 }).toMatch(/^503 /);
    expect((await world.bench<JobStanding>("POST", `jobs/${second}/stop`)).state).toBe("stopped");
    disk.free();
    await expect.poll(health, { timeout: 30_000 }).toBe("200 ");
    expect([await stateOf(world, second), await seen(world, slug)]).toEqual(["stopped", 1_500]);
  } finally {
    await world.stop();
    disk.unmount();
  }
});
