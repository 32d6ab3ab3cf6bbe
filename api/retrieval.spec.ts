import type { Job } from "@/contract/jobs";
import type { Retrieval } from "@/contract/retrieval";
import type { Source } from "@/contract/sources";
import type { Content } from "@/core/revision/content";
import { meanReciprocalRank, shareAmong } from "@/core/sources/retrieval";
import { expect, test, type World } from "../e2e/fixtures";
import { VectorProvider } from "./vector-provider";

const chapters = Array.from(
  { length: 40 },
  (_, at) => `## Berth ${at}\nBerth ${at} takes ${at + 2} boats, and its lamp is number ${at * 7}.\n`,
).join("\n");
const rules = `# Rules

## Bicycles
A bicycle costs €2.00 each way and needs a place.

## Refunds
Tickets are refunded in full until 24 hours before the sailing.

${chapters}`;

let makers: VectorProvider;
test.beforeEach(async () => {
  makers = await VectorProvider.start();
});
test.afterEach(() => makers.stop());

/** An app that answers from the rules, by words alone unless a provider of vectors is named. */
async function desk(world: World, name: string, meaning?: { provider: string; model: string }): Promise<string> {
  const slug = await world.makeApp(name, { model: "reed-deep" });
  const response = await fetch(`${world.address}/api/bench/apps/${slug}/sources/files?name=rules.md`, {
    method: "POST",
    headers: { "content-type": "application/octet-stream" },
    body: rules,
  });
  const { id } = (await response.json()) as Source;
  await world.editDraft(slug, { sources: { documents: [{ source: id }], ...(meaning && { meaning }) } });
  const isCut = async () =>
    (await world.bench<{ sources: Source[] }>("GET", `apps/${slug}/sources`)).sources[0]?.passages ?? 0;
  await expect.poll(isCut, { timeout: 30_000 }).toBeGreaterThan(0);
  return slug;
}

const read = (world: World, slug: string) => world.bench<Retrieval>("GET", `apps/${slug}/retrieval`);
const add = (world: World, slug: string, question: string, quote: string) =>
  world.bench("POST", `apps/${slug}/retrieval/questions`, { question, quote });

async function ended(world: World, { id }: Job): Promise<Job> {
  const job = () => world.bench<Job>("GET", `jobs/${id}`);
  await expect.poll(async () => (await job()).state, { timeout: 60_000 }).not.toMatch(/running|waiting/);
  return job();
}

test("questions are asked by words, by meaning and by both, on several cuts side by side, and no model answers", async ({
  world,
}) => {
  const { slug: provider } = await world.bench<{ slug: string }>("POST", "providers", {
    name: `Looms ${makers.address.slice(-5)}`,
    address: makers.address,
    profile: "chat-completions",
    credential: { kind: "none" },
    models: [{ name: "weft", window: 2_000, price: { input: 0.02, output: 0, currency: "EUR" }, can: ["vectors"] }],
  });
  const slug = await desk(world, "Retrieval", { provider, model: "weft" });
  await add(world, slug, "What does a bicycle cost?", "costs €2.00 each way");
  await add(world, slug, "Do I get my money back?", "refunded in full\nuntil 24 hours");
  await add(world, slug, "How many boats does berth 12 take?", "Berth 12 takes 14 boats");
  const { vectors, ways, cut } = await read(world, slug);
  expect([ways, cut, vectors?.isPriced]).toEqual([["words", "meaning", "merged"], { size: 180, overlap: 20 }, true]);
  expect(vectors?.tokens).toBeGreaterThan(100);

  await world.forgetCalls();
  const cuts = [cut, { size: 40, overlap: 0 }, { size: 40, overlap: 0 }];
  const job = await ended(world, await world.bench<Job>("POST", `apps/${slug}/retrieval/runs`, { cuts }));
  expect([job.state, job.done, job.of]).toEqual(["done", 18, 18]);
  expect(await world.calls()).toEqual([]);
  const [run] = (await read(world, slug)).runs;
  expect(run?.results.map(({ size, overlap, way }) => `${size}/${overlap} ${way}`)).toEqual([
    "180/20 words",
    "180/20 meaning",
    "180/20 merged",
    "40/0 words",
    "40/0 meaning",
    "40/0 merged",
  ]);
  const words = run?.results[3]?.places ?? [];
  expect(words[0]).toBe(1);
  expect(shareAmong(words, 5)).toBeGreaterThanOrEqual(33);
  for (const { places, problem } of run?.results ?? []) {
    expect([places.length, problem]).toEqual([3, undefined]);
    expect(meanReciprocalRank(places)).toBeGreaterThan(0);
  }

  // asked again, nothing is paid for twice; what was cut for it alone is gone
  const paid = makers.texts.length;
  await ended(world, await world.bench<Job>("POST", `apps/${slug}/retrieval/runs`, { cuts: cuts.slice(0, 2) }));
  expect(makers.texts.length - paid).toBeLessThan(10);
  expect((await read(world, slug)).runs).toHaveLength(2);

  // a question that is deleted meanwhile is asked to the end, and each place stays with its question
  const [, second] = (await read(world, slug)).questions;
  const under = await world.bench<Job>("POST", `apps/${slug}/retrieval/runs`, { cuts: [cut] });
  await world.bench("DELETE", `retrieval-questions/${second?.id}`);
  await ended(world, under);
  const [whole] = (await read(world, slug)).runs;
  expect(whole?.asked.map(({ id }) => id)).toContain(second?.id);
  for (const { places } of whole?.results ?? []) expect(places).toHaveLength(3);

  // where the model that makes vectors fails, words are asked all the same
  makers.fault = "status 401";
  await add(world, slug, "Which number has the lamp of berth 7?", "its lamp is number 49");
  const again = await world.bench<Job>("POST", `apps/${slug}/retrieval/runs`, { cuts: [{ size: 60, overlap: 10 }] });
  expect((await ended(world, again)).state).toBe("done");
  const [failed] = (await read(world, slug)).runs;
  expect(failed?.results.map(({ way, problem, places }) => [way, problem?.kind, places.length])).toEqual([
    ["words", undefined, 3],
    ["meaning", "unauthorised", 0],
    ["merged", "unauthorised", 0],
  ]);
});

test("questions come from hand, from marks and from the model; what is proposed is weeded, and what no document says is not asked", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await desk(world, "Questions");
  await expect(add(world, slug, "Is there a sauna?", "the sauna is hot")).rejects.toThrow(/No document/);
  await expect(
    world.bench("POST", `apps/${slug}/retrieval/runs`, { cuts: [{ size: 180, overlap: 20 }] }),
  ).rejects.toThrow(/no question/);
  await add(world, slug, "What does a bicycle cost?", "costs €2.00 each way");
  await expect(add(world, slug, "What does a bicycle cost?", "costs €2.00 each way")).rejects.toThrow(/there already/);

  const job = await ended(world, await world.bench<Job>("POST", `apps/${slug}/retrieval/proposals`, { count: 6 }));
  expect([job.state, job.done, job.of, job.price > 0]).toEqual(["done", 6, 6, true]);
  const proposed = (await read(world, slug)).questions.filter(({ comes }) => comes === "proposed");
  expect(proposed.length).toBeGreaterThanOrEqual(4);
  for (const each of proposed) expect([each.isAsked, each.isThere, each.title]).toEqual([false, true, "Rules"]);

  // a reply that a visitor marked as good tells what was asked, and what answers it
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: draft });
  const visitor = { "content-type": "application/json", "finch-visitor": "ann" };
  const asked = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: visitor,
    body: JSON.stringify({ message: "What does a bicycle cost each way?" }),
  });
  const { reply, text } = (await asked.json()) as { reply: string; text: string };
  expect(text).toContain("[rules");
  const marked = await fetch(`${world.address}/api/apps/${slug}/replies/${reply}/rating`, {
    method: "PUT",
    headers: visitor,
    body: JSON.stringify({ rating: "good" }),
  });
  expect(marked.status, await marked.text()).toBeLessThan(300);
  expect(await world.bench("POST", `apps/${slug}/retrieval/from-marks`)).toEqual({ added: 1 });
  expect(await world.bench("POST", `apps/${slug}/retrieval/from-marks`)).toEqual({ added: 0 });

  // weeded
  const [first, ...others] = proposed;
  await world.bench("PATCH", `retrieval-questions/${first?.id}`, { isAsked: true });
  for (const { id } of others) await world.bench("DELETE", `retrieval-questions/${id}`);
  const run = await world.bench<Job>("POST", `apps/${slug}/retrieval/runs`, { cuts: [{ size: 180, overlap: 20 }] });
  await ended(world, run);
  const now = await read(world, slug);
  expect(now.questions.map(({ comes, isAsked }) => [comes, isAsked])).toEqual([
    ["typed", true],
    ["proposed", true],
    ["mark", false],
  ]);
  expect(now.runs[0]?.asked.map(({ question }) => question)).toEqual(["What does a bicycle cost?", first?.question]);
  expect(now.runs[0]?.results.map(({ way, places }) => [way, places.length])).toEqual([["words", 2]]);
});
