import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { NumberedEvent } from "@/core/reply/events";
import { allEvents, eventsOf, expect, test, textIn, World } from "../e2e/fixtures";
import { freePorts } from "../scripts/free-ports";
import { server } from "../scripts/prepare.mjs";

const rounds = 6;

test("a server that is killed in mid-reply loses nothing that a reader had", async () => {
  test.setTimeout(600_000);
  const world = await World.make();
  await world.start();
  try {
    const slug = await world.makeApp("Crash", { settings: {} });
    const replies = `${world.address}/api/apps/${slug}/replies`;
    for (let round = 0; round < rounds; round++) {
      await world.pace(150);
      const before = (await world.calls()).length;
      const response = await fetch(replies, {
        method: "POST",
        headers: { accept: "text/event-stream" },
        body: JSON.stringify({ message: `Tell me a story about the ferry, number ${round}` }),
      });
      const cookie = response.headers.get("set-cookie")?.split(";")[0] ?? "";
      const had = await killedAfter(world, response, 1 + round * 4);
      // a server that is killed at once has asked the provider nothing yet
      const planned = (await world.calls())[before]?.text;
      await world.pace("instant");
      await world.startWeb();

      const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
      expect(database.pragma("integrity_check", { simple: true })).toBe("ok");
      database.close();

      const head = had[0];
      const reply = head?.event === "reply" ? head.data.reply : "";
      const replayed = await allEvents(
        await fetch(`${replies}/${reply}`, { headers: { accept: "text/event-stream", cookie } }),
      );
      expect(replayed.slice(0, had.length)).toEqual(had);
      expect(replayed.at(-1)).toMatchObject({ event: "problem", data: { kind: "interrupted" } });
      const standing = await (await fetch(`${replies}/${reply}`, { headers: { cookie } })).json();
      expect(standing).toMatchObject({ state: "interrupted", text: textIn(replayed) });

      const more = await fetch(replies, { method: "POST", headers: { cookie }, body: JSON.stringify({ goOn: reply }) });
      const { text } = (await more.json()) as { text: string };
      expect(text).toBe(planned ?? (await world.calls()).at(-1)?.text);
    }
  } finally {
    await world.stop();
  }
});

/** Reads so many events, kills the server, and gives all events that had arrived by then. */
async function killedAfter(world: World, response: Response, count: number): Promise<NumberedEvent[]> {
  const had: NumberedEvent[] = [];
  let killed: Promise<void> | undefined;
  try {
    for await (const event of eventsOf(response)) {
      had.push(event);
      if (had.length >= count) killed ??= world.killWeb();
    }
  } catch {
    // the connection breaks off, which is what is wanted
  }
  await killed;
  expect(killed).toBeDefined();
  return had;
}

test("a second process on the same data folder is refused with a clear message", async ({ world }) => {
  const { spawnSync } = await import("node:child_process");
  const second = spawnSync(...server(), {
    env: { ...process.env, NODE_ENV: "production", FINCH_DATA: world.folder, FINCH_PORT: String(await freePorts(1)) },
    encoding: "utf8",
    timeout: 20_000,
  });
  expect(second.status).toBe(1);
  expect(second.stderr).toContain(`The data folder ${world.folder} is in use by another Unruly Finch`);
});
