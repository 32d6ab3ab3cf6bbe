import type { NumberedEvent } from "@/core/reply/events";
import { askingTwice, Desk } from "@/server/test/desk";
import { type JobStanding, jobOf, sent } from "../api/import-file";
import { allEvents, buildOf, eventsOf, expect, type StandInName, test, World } from "./fixtures";

const speakers: [StandInName, string][] = [
  ["Reedbed", "reed-deep"],
  ["Saltpan", "pan-clear"],
  ["Tidegate", "tide-wide"],
];

for (const [standIn, model] of speakers)
  test(`a reply through ${standIn} asks two tools and one of them again, and is shown, accounted for and gone on with`, async ({
    page,
    world,
  }) => {
    const desk = await Desk.start();
    try {
      const provider = await world.wire(standIn);
      const slug = await world.makeApp("Tools", { provider, model, tools: desk.tools(), settings: { maxOutput: 600 } });
      const build = buildOf(page, world);
      await build.open(slug);
      await build.say(askingTwice);
      const reply = build.reply(1, "complete");
      await expect(reply).toContainText("4.00");
      await expect(reply).toContainText("9:12");
      const calls = build.rows.filter({ hasText: /its address, \d/ });
      await expect(calls).toHaveText([
        /fares\(place: "Brindle"\) → .*round 1 · dispatch/s,
        /tides\(\) → .*round 1/s,
        /fares\(place: "Tansy Holm"\) → .*round 2/s,
      ]);
      expect(desk.asked).toEqual(['/fares {"place":"Brindle"}', "/tides {}", '/fares {"place":"Tansy Holm"}']);
      // the ledger of the next message: tools are a part of it, and the exchange is counted with its turn
      await page.reload();
      await expect(build.reply(1, "complete")).toContainText("6.00");
      await build.say("Thank you. What did I ask first?");
      await expect(build.reply(2, "complete")).toContainText(/fares|Brindle/);
      await expect(build.sheet).not.toContainText("not as expected");
      await reply.getByRole("button", { name: /^Dispatch of/ }).click();
      await expect(page.getByText("round 3 of 3: complete").first()).toBeVisible();
      await expect(page.getByRole("cell", { name: "2 tools" })).toBeVisible();
      await expect(page.getByRole("cell", { name: "The reply so far, 3 calls of tools" })).toBeVisible();
    } finally {
      desk.stop();
    }
  });

test("a conversation with tools is the same after it was exported and imported", async ({ page, world }) => {
  const desk = await Desk.start();
  try {
    const slug = await world.makeApp("Out", { model: "reed-deep", tools: desk.tools() });
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({ message: askingTwice }),
    });
    expect(response.ok).toBe(true);
    const file = await (await fetch(`${world.address}/api/bench/apps/${slug}/export?as=jsonl`)).text();
    const lines = file
      .trim()
      .split("\n")
      .map((line) => JSON.parse(line));
    expect(lines[1].pieces.filter(({ kind }: { kind: string }) => kind === "tool")).toHaveLength(3);
    const other = await world.makeApp("In", { model: "reed-deep" });
    const job = await sent(world, other, file);
    await expect.poll(async () => (await jobOf(world, job)).state).toBe("waiting");
    await world.bench<JobStanding>("POST", `jobs/${job}/store`);
    await expect.poll(async () => (await jobOf(world, job)).state).toBe("done");
    const again = await (await fetch(`${world.address}/api/bench/apps/${other}/export?as=jsonl`)).text();
    const pieces = (text: string) =>
      text
        .trim()
        .split("\n")
        .map((line) => JSON.parse(line).pieces);
    expect(pieces(again)).toEqual(pieces(file));
    await page.goto(`${world.address}/apps/${other}/history`);
    await page
      .getByRole("button", { name: /What are the fares/ })
      .first()
      .click();
    await expect(page.getByRole("article", { name: "Turn 1, tool fares, answered" }).first()).toContainText(
      'fares(place: "Brindle")',
    );
  } finally {
    desk.stop();
  }
});

test("a server that is killed between a call and its answer leaves a reply that says so, and never makes it again", async () => {
  test.setTimeout(120_000);
  const desk = await Desk.start();
  const world = await World.make();
  await world.start();
  try {
    await world.pace("instant");
    const slug = await world.makeApp("Killed", { model: "reed-deep", tools: desk.tools() });
    const replies = `${world.address}/api/apps/${slug}/replies`;
    desk.fallSilent();
    const response = await fetch(replies, {
      method: "POST",
      headers: { accept: "text/event-stream", "finch-visitor": "ada" },
      body: JSON.stringify({ message: askingTwice }),
    });
    const had: NumberedEvent[] = [];
    let killed: Promise<void> | undefined;
    try {
      for await (const event of eventsOf(response)) {
        had.push(event);
        if (had.filter(({ event }) => event === "tool").length < 2) continue;
        await expect.poll(() => desk.asked.length).toBe(1);
        killed ??= world.killWeb();
      }
    } catch {
      // the connection breaks off, which is what is wanted
    }
    await killed;
    desk.speakAgain();
    await world.startWeb();
    const [head] = had;
    const id = head?.event === "reply" ? head.data.reply : "";
    const visitor = { "finch-visitor": "ada" };
    const replayed = await allEvents(
      await fetch(`${replies}/${id}`, { headers: { ...visitor, accept: "text/event-stream" } }),
    );
    expect(replayed.slice(0, had.length)).toEqual(had);
    expect(replayed.at(-1)).toMatchObject({ event: "problem", data: { kind: "interrupted" } });
    const conversation = head?.event === "reply" ? head.data.conversation : "";
    const line = await fetch(`${world.address}/api/apps/${slug}/conversations/${conversation}`, { headers: visitor });
    const { messages } = (await line.json()) as { messages: { pieces: { kind: string; outcome?: string }[] }[] };
    expect(messages[1]?.pieces.map(({ kind, outcome }) => [kind, outcome])).toEqual([
      ["tool", "unknown"],
      ["tool", "unknown"],
    ]);
    // what may have happened is not made to happen once more
    expect(desk.asked).toEqual(['/fares {"place":"Brindle"}']);
    const more = await fetch(replies, { method: "POST", headers: visitor, body: JSON.stringify({ goOn: id }) });
    const told = (await more.json()) as { text: string };
    expect(told.text).toContain("not known whether it was done");
    expect(desk.asked.filter((each) => each.includes("Brindle"))).toHaveLength(1);
  } finally {
    desk.stop();
    await world.stop();
  }
});

test("a tool that hangs is cut off, and too many rounds have a name, for callers too", async ({ world }) => {
  const desk = await Desk.start();
  try {
    desk.fallSilent();
    const hanging = await world.makeApp("Hanging", { model: "reed-deep", tools: desk.tools(0.3) });
    const ask = (slug: string, message: string) =>
      fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: JSON.stringify({ message }) });
    const { text } = (await (await ask(hanging, "What are the fares to Brindle?")).json()) as { text: string };
    expect(text).toContain("did not answer within 0.3 s");
    desk.speakAgain();
    const once = await world.makeApp("Once", { model: "reed-deep", tools: desk.tools(), rounds: 1 });
    const refused = await ask(once, askingTwice);
    expect([refused.status, (await refused.json()).kind]).toEqual([502, "too-many-rounds"]);
  } finally {
    desk.stop();
  }
});

test("tools are refused with the place of what is wrong in them", async ({ world }) => {
  const desk = await Desk.start();
  try {
    const [fares, tides] = desk.tools();
    const slug = await world.makeApp("Wrong");
    const wrong = (tools: object[]) => world.editDraft(slug, { tools: tools as never });
    await expect(wrong([{ ...fares, parameters: { type: "no type" } }])).rejects.toThrow(
      /content\.tools\[0\]\.parameters/,
    );
    await expect(wrong([{ ...fares, name: "two words" }])).rejects.toThrow(/name/);
    await expect(wrong([fares, { ...tides, name: "fares" }] as object[])).rejects.toThrow(/names a tool twice/);
  } finally {
    desk.stop();
  }
});
