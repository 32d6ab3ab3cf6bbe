import type { Job } from "@/contract/jobs";
import type { FoundAnswer, Source } from "@/contract/sources";
import type { Content } from "@/core/revision/content";
import type { Digest } from "@/core/sources/digest";
import { expect, noLimits, test, World } from "../e2e/fixtures";
import { addFile } from "./source-file";

/** A log of many days, of which each has a fact of its own. */
const days = 480;
const log = `# Log of the Teal\n\n${Array.from(
  { length: days },
  (_, at) =>
    `## Day ${at + 1}\n\nOn day ${at + 1} the Teal left at ${6 + (at % 12)}:${String((at * 7) % 60).padStart(2, "0")} with ${20 + at} passengers. The weather was as it often is in these waters, and nothing else is worth the ink.\n`,
).join("\n")}`;

const named = async (world: World, slug: string, id: string) =>
  (await world.bench<{ draft: Content }>("GET", `apps/${slug}`)).draft.sources?.documents.find(
    ({ source }) => source === id,
  );
const jobOf = async (world: World, id: string) =>
  (await world.bench<{ jobs: Job[] }>("GET", "jobs")).jobs.find((job) => job.id === id);
const found = (world: World, slug: string, question: string) =>
  world.bench<FoundAnswer>("GET", `apps/${slug}/found?question=${encodeURIComponent(question)}`);

async function whole(world: World, slug: string, id: string, more: object = {}): Promise<void> {
  await world.editDraft(slug, { sources: { documents: [{ source: id, whole: {} }], ...more } });
  const isRead = async () =>
    (await world.bench<{ sources: Source[] }>("GET", `apps/${slug}/sources`)).sources.every(({ isRead }) => isRead);
  await expect.poll(isRead, { timeout: 30_000 }).toBe(true);
}

async function digested(world: World, slug: string, id: string, within: number): Promise<Digest> {
  const { id: job } = await world.bench<{ id: string }>("POST", `sources/${id}/digest`, { within });
  await expect.poll(async () => (await jobOf(world, job))?.state, { timeout: 60_000 }).toBe("done");
  return (await named(world, slug, id))?.whole?.digest as Digest;
}

/** Asks as a visitor; gives the reply and the request that was sent for it. */
async function ask(world: World, slug: string, message: string): Promise<{ text: string; sent: string }> {
  await world.forgetCalls();
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "content-type": "application/json", "finch-visitor": "ann" },
    body: JSON.stringify({ message }),
  });
  expect(response.status, await response.clone().text()).toBe(200);
  const { text } = (await response.json()) as { text: string };
  return { text, sent: JSON.stringify((await world.calls()).at(-1)) };
}

async function goLive(world: World, slug: string): Promise<void> {
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: draft });
}

test("a document that goes along whole is in every request, whatever is asked, with a mark of its own", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Whole", { model: "reed-deep" }, { limits: noLimits });
  const rules = await addFile(world, slug, "rules.md", "# Rules\n\nThe pilot of the Teal is Wilhelmina Puffinstow.\n");
  await whole(world, slug, rules.id);
  const { found: all, unready } = await found(world, slug, "What is the weather?");
  expect(unready).toEqual([]);
  expect(all).toMatchObject([{ whole: "text", source: rules.id, likeness: 1, where: { from: 0 } }]);
  await goLive(world, slug);
  expect((await ask(world, slug, "Good morning!")).sent).toContain("Wilhelmina Puffinstow");
  const { text, sent } = await ask(world, slug, "Who is the pilot of the Teal?");
  expect(sent).toContain("[rules 1] Rules");
  expect(text).toContain("Wilhelmina Puffinstow [rules 1]");
});

test("a long document goes along by a digest that is made in passes, says what it covers, and is of one version alone", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Log", { model: "reed-deep" }, { limits: noLimits });
  const source = await addFile(world, slug, "log.md", log);
  await whole(world, slug, source.id);
  // too long to go along as it is
  expect(await found(world, slug, "When did it leave?")).toMatchObject({ found: [], unready: [source.id] });
  await world.forgetCalls();
  const digest = await digested(world, slug, source.id, 600);
  const calls = await world.calls();
  expect(digest).toMatchObject({
    of: source.hash,
    unread: [],
    cut: 0,
    characters: log.trim().replace(/^#+ /gm, "").length,
  });
  expect(digest.stretches).toBeGreaterThan(1);
  expect(digest.passes).toBeGreaterThan(1);
  // every stretch was read once, in the first pass
  for (let day = 1; day <= days; day += 1)
    expect(
      calls.filter((call) => JSON.stringify(call).includes(`On day ${day} the Teal`)).length,
      `day ${day}`,
    ).toBeGreaterThan(0);
  expect(digest.text.length).toBeLessThan(log.length / 4);

  await goLive(world, slug);
  const { sent } = await ask(world, slug, "When did the Teal leave?");
  expect(sent).toContain("[log 1] digest of Log");
  expect(sent).toContain(JSON.stringify(digest.text.slice(0, 60)).slice(1, -1));
  expect(sent.length).toBeLessThan(log.length / 2);

  // a newer version is not what it was made of
  const newer = await addFile(world, slug, "log.md", `${log}\n## Day ${days + 1}\n\nOn that day it stayed.\n`);
  expect(newer.id).toBe(source.id);
  await expect
    .poll(async () => (await found(world, slug, "When did it leave?")).unready, { timeout: 30_000 })
    .toEqual([source.id]);
});

test("a digest that is killed in the midst, or fails, is gone on with, and no part of it is asked for twice", async () => {
  const world = await World.make();
  try {
    await world.start();
    await world.pace(400);
    const slug = await world.makeApp("Cut off", { model: "reed-deep" }, { limits: noLimits });
    const source = await addFile(world, slug, "log.md", log);
    await whole(world, slug, source.id);
    await world.forgetCalls();
    const { id } = await world.bench<{ id: string }>("POST", `sources/${source.id}/digest`, { within: 1_000 });
    await expect.poll(async () => (await jobOf(world, id))?.done, { timeout: 60_000 }).toBeGreaterThan(0);
    const done = (await jobOf(world, id))?.done ?? 0;
    await world.killWeb();
    const before = (await world.calls()).length;
    await world.startWeb();
    await world.pace("instant");
    await expect.poll(async () => (await jobOf(world, id))?.state, { timeout: 60_000 }).toBe("done");
    const { of } = (await jobOf(world, id)) as Job;
    expect((await world.calls()).length - before).toBeLessThanOrEqual(of - done);
    expect((await named(world, slug, source.id))?.whole?.digest?.of).toBe(source.hash);

    // a provider that is gone: what failed says which part it was, and the rest stays made
    await world.editDraft(slug, { sources: { documents: [{ source: source.id, whole: {} }] } });
    await world.fault({ fault: "status", status: 500 });
    const failing = await world.bench<{ id: string }>("POST", `sources/${source.id}/digest`, { within: 900 });
    await expect.poll(async () => (await jobOf(world, failing.id))?.state, { timeout: 60_000 }).toBe("failed");
    expect((await jobOf(world, failing.id))?.problem?.detail).toMatch(/^Part \d+ of \d+: /);
    await world.fault(null);
    const again = await world.bench<{ id: string }>("POST", `sources/${source.id}/digest`, { within: 900 });
    expect(again.id).toBe(failing.id);
    await expect.poll(async () => (await jobOf(world, again.id))?.state, { timeout: 60_000 }).toBe("done");
    expect((await named(world, slug, source.id))?.whole?.digest?.of).toBe(source.hash);
  } finally {
    await world.stop();
  }
});

test("a digest is refused where nothing is to be made of", async ({ world }) => {
  const slug = await world.makeApp("Refused");
  const source = await addFile(world, slug, "rules.md", "# Rules\n\nDogs travel free.\n");
  const refused = async (within: number) => {
    const response = await fetch(`${world.address}/api/bench/sources/${source.id}/digest`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ within }),
    });
    return `${response.status} ${((await response.json()) as { detail: string }).detail}`;
  };
  expect(await refused(600)).toMatch(/^409 The draft has no such document go along whole/);
  expect(await refused(10)).toMatch(/^400 /);
});

test("what goes along whole is in every estimate: of lanes, of a set, of saying again, and in the reach that a caller is told", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Foreseen", { model: "reed-deep" }, { limits: noLimits });
  const rota = Array.from({ length: 200 }, (_, at) => `On day ${at} the Teal has ${20 + at} passengers.`).join("\n\n");
  const { draft: plain } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  const source = await addFile(world, slug, "rota.md", rota);
  await whole(world, slug, source.id);
  const { draft: full } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: plain });
  await ask(world, slug, "Good morning!");
  const { conversations } = await world.bench<{ conversations: { id: string }[] }>("GET", `apps/${slug}/conversations`);
  const [conversation = { id: "" }] = conversations;
  const foreseen = async (content: Content) => {
    await world.bench("PUT", `apps/${slug}/live`, { content });
    await world.editDraft(slug, content);
    const lanes = [{ content }];
    const both = Array.from({ length: 2 }, () => ({ base: "live", content }));
    type Ahead = { lanes: [{ tokens: number }] };
    const after = { lanes, after: null, typed: "Hello" };
    const reach = await fetch(`${world.address}/api/apps/${slug}/conversations/${conversation.id}/reach`, {
      headers: { "finch-visitor": "ann" },
    });
    return [
      (await world.bench<Ahead>("POST", `apps/${slug}/lanes-ahead`, after)).lanes[0].tokens,
      (await world.bench<Ahead>("POST", `apps/${slug}/sets-ahead`, { lanes: both, rows: [["Hello"]] })).lanes[0].tokens,
      (await world.bench<{ input: number }>("GET", `conversations/${conversation.id}/said-again`)).input,
      ((await reach.json()) as { tokens: number }).tokens,
    ];
  };
  const without = await foreseen({ ...full, sources: undefined });
  const along = await foreseen(full);
  const { sent } = await ask(world, slug, "Good morning!");
  expect(sent).toContain("On day 199");
  for (const [at, tokens] of along.entries()) expect(tokens - (without[at] ?? 0)).toBeGreaterThan(1_500);
});
