import { countOfImport, fileOf, jobOf, sent, settled } from "../api/import-file";
import { World } from "../e2e/world";
import { SmallDisk } from "../scripts/small-disk";
import { Caller } from "./caller";
import { StalledTab, speak } from "./stalled-tab";

import type { Tally } from "./tally";

const conversations = 60;

/** Kills the server as an import and a conversation that is said again come to their end; what was stored is stored. */
export async function killsAtTheEnd(world: World, tally: Tally, rounds: number): Promise<void> {
  const slug = await world.makeApp("At the end");
  const asked = await world.bench<{ conversation: string }>("POST", `apps/${slug}/replies`, { message: "Which boat?" });
  for (let round = 0; round < rounds; round += 1) {
    const job = await sent(world, slug, fileOf(conversations));
    await settled(world, job, "waiting");
    const again = await world.bench<{ id: string }>("POST", `conversations/${asked.conversation}/said-again`, {});
    await world.bench("POST", `jobs/${job}/store`);
    // within the last steps: as they are told, and a few milliseconds on
    for (let at = await jobOf(world, job); at.state === "running" && at.done < at.of; at = await jobOf(world, job));
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 30));
    await world.killWeb();
    await world.startWeb();
    for (const id of [job, again.id]) {
      const { state } = await settled(world, id, "done");
      tally.expects(state === "done", `round ${round}: job ${id} is ${state}`);
    }
    const found = countOfImport(world, job);
    tally.expects(found === conversations, `round ${round}: ${found} of ${conversations} conversations are there`);
    tally.count("kills at an end");
  }
}

/** Fills the disk in the midst of an import, and frees it: nothing that was stored is lost, and health knows. */
export async function fullDisk(_world: World, tally: Tally): Promise<void> {
  const disk = SmallDisk.mount(48);
  if (!disk) return tally.count("disks that could not be mounted");
  const world = await World.make(disk.folder);
  try {
    await world.start();
    const slug = await world.makeApp("Full");
    for (const isStopped of [false, true]) {
      const job = await sent(world, slug, fileOf(600, 1_500));
      await settled(world, job, "waiting");
      disk.leave(700_000);
      await world.bench("POST", `jobs/${job}/store`);
      let health = "200";
      for (let tries = 0; health.startsWith("200") && tries < 600; tries += 1) {
        await new Promise((resolve) => setTimeout(resolve, 50));
        health = await world.health();
      }
      tally.expects(health.startsWith("503"), "health does not know of a full disk");
      if (isStopped) {
        const { state } = await world.bench<{ state: string }>("POST", `jobs/${job}/stop`);
        tally.expects(state === "stopped", `a stop on a full disk gave ${state}`);
      }
      disk.free();
      const { state } = await settled(world, job, isStopped ? "stopped" : "done");
      tally.expects(state === (isStopped ? "stopped" : "done"), `with room again the import is ${state}`);
      const found = countOfImport(world, job);
      tally.expects(found === (isStopped ? 0 : 600), `${found} conversations of it are there`);
      tally.count("full disks");
    }
  } finally {
    await world.stop();
    disk.unmount();
  }
}

/** Stalls a tab while far more passes than is kept: it is told so, and misses nothing without a word. */
export async function stalledTab(world: World, tally: Tally): Promise<void> {
  const slug = await world.makeApp("Stalled", { settings: { maxOutput: 3_000 } });
  await world.pace("instant");
  const tab = await StalledTab.open(world);
  await speak(world, slug, 1);
  tab.stall();
  await world.pace(1_500);
  // more than a connection holds by itself, by more events than are kept
  for (let round = 0; round < 9; round += 1) await speak(world, slug, 80);
  tab.goOn();
  await world.pace("instant");
  for (let tries = 0; !tab.heard.some(({ isBehind }) => isBehind) && tries < 600; tries += 1)
    await new Promise((resolve) => setTimeout(resolve, 50));
  await speak(world, slug, 1);
  tally.expects(
    tab.heard.some(({ isBehind }) => isBehind),
    "a tab that stalled was not told what it missed",
  );
  tally.expects(tab.holes.length === 0, `${tab.holes.length} events were missed without a word`);
  tally.count("stalled tabs");
  tab.close();
}

/** Sends what others sent, under their keys, as somebody else: each gets a conversation of its own. */
export async function othersKeys(world: World, tally: Tally): Promise<void> {
  const slug = await world.makeApp("Overheard");
  await world.pace("instant");
  for (let round = 0; round < 20; round += 1) {
    const key = { "idempotency-key": `order-${round}` };
    const body = { message: "What is 12 * 7?" };
    const askers = Array.from({ length: 3 }, () => new Caller(world, slug));
    const answers = await Promise.all(askers.map(async (asker) => (await asker.ask(body, key)).json()));
    const own = new Set((answers as { conversation: string }[]).map(({ conversation }) => conversation));
    tally.expects(own.size === askers.length, `${askers.length} strangers under one key got ${own.size} conversations`);
    tally.expects(new Set(askers.map(({ cookie }) => cookie)).size === askers.length, "two strangers got one cookie");
    tally.count("strangers with another's key", askers.length);
  }
}
