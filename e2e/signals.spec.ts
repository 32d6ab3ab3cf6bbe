import { spawn } from "node:child_process";
import { once } from "node:events";
import { freePorts } from "../scripts/free-ports";
import { allEvents, buildOf, expect, test, World } from "./fixtures";

const story = "Tell me a story about the ferry";

for (const signal of ["SIGTERM", "SIGINT"] as const)
  test(`${signal} ends the process within ten seconds with a tab open: what is short is finished, what is long interrupted`, async ({
    page,
  }) => {
    const world = await World.make();
    await world.start();
    try {
      const slug = await world.makeApp("Ends", { settings: {} });
      const build = buildOf(page, world);
      await build.open(slug);
      await world.pace(40);
      const ask = (message: string) =>
        fetch(`${world.address}/api/apps/${slug}/replies`, {
          method: "POST",
          headers: { accept: "text/event-stream" },
          body: JSON.stringify({ message }),
        });
      const [short, long] = await Promise.all([ask("What is 12 * 7?"), ask(story)]);
      const began = performance.now();
      const ended = world.endWeb(signal);
      const [shortEvents, longEvents] = await Promise.all([allEvents(short), allEvents(long)]);
      expect(await ended).toBe(0);
      expect(performance.now() - began).toBeLessThan(10_000);
      expect(shortEvents.at(-1)).toMatchObject({ event: "end" });
      expect(longEvents.at(-1)).toMatchObject({ event: "problem", data: { kind: "interrupted" } });

      await world.pace("instant");
      await world.startWeb();
      const { conversations } = await world.bench<{ conversations: { opening: string; turns: { state: string }[] }[] }>(
        "GET",
        `apps/${slug}/conversations`,
      );
      const states = conversations.map(({ opening, turns }) => [opening, turns[0]?.state]);
      expect(new Map(states as [string, string][])).toEqual(
        new Map([
          [story, "interrupted"],
          ["What is 12 * 7?", "complete"],
        ]),
      );
      await build.say("Are you there again?");
      await expect(build.reply(1, "complete")).toBeVisible();
    } finally {
      await world.stop();
    }
  });

test("a second signal ends it at once, and new calls are refused after the first", async () => {
  const world = await World.make();
  await world.start();
  try {
    const slug = await world.makeApp("Twice", { settings: {} });
    await world.pace(40);
    const replies = `${world.address}/api/apps/${slug}/replies`;
    const response = await fetch(replies, {
      method: "POST",
      headers: { accept: "text/event-stream" },
      body: JSON.stringify({ message: story }),
    });
    const reader = response.body?.getReader();
    await reader?.read();
    world.signalWeb("SIGTERM");
    // once it listens no more, the first signal has been heard, and the second is another one
    await expect
      .poll(() =>
        fetch(`${world.address}/api/health`).then(
          (answer) => answer.status,
          () => "away",
        ),
      )
      .toBe("away");
    await expect
      .poll(async () => {
        const began = performance.now();
        while (performance.now() - began < 400) await reader?.read();
        return "still reading";
      })
      .toBe("still reading");
    expect(await world.endWeb("SIGTERM")).toBe(130);
    await reader?.cancel().catch((error: Error) => expect(error.message).toMatch(/terminated|aborted|closed/));
  } finally {
    await world.stop();
  }
});

test("npm start is ended by one signal, and all that it started with it", async () => {
  test.setTimeout(120_000);
  const world = await World.make();
  const port = await freePorts(1);
  const started = spawn("npm", ["start"], {
    stdio: ["ignore", "pipe", "inherit"],
    env: { ...process.env, FINCH_DATA: world.folder, FINCH_PORT: String(port), FINCH_HOST: "127.0.0.1" },
  });
  try {
    const health = () =>
      fetch(`http://127.0.0.1:${port}/api/health`).then(
        ({ status }) => status,
        () => "away",
      );
    await expect.poll(health, { timeout: 60_000 }).toBe(200);
    const tab = await fetch(`http://127.0.0.1:${port}/api/bench/stream`);
    const reader = tab.body?.getReader();
    await reader?.read();
    const began = performance.now();
    const ended = once(started, "exit");
    started.kill("SIGTERM");
    let last = "";
    for (let part = await reader?.read(); part && !part.done; part = await reader?.read())
      last = new TextDecoder().decode(part.value);
    expect(last).toContain("the server is being stopped");
    await ended;
    expect(performance.now() - began).toBeLessThan(10_000);
    await expect.poll(health).toBe("away");
  } finally {
    started.kill("SIGKILL");
    await world.stop();
  }
});
