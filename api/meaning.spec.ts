import type { FoundAnswer, Source, VectorsStanding } from "@/contract/sources";
import type { Content } from "@/core/revision/content";
import { expect, test, type World } from "../e2e/fixtures";
import { addFile } from "./source-file";
import { type VectorFault, VectorProvider } from "./vector-provider";

const chapters = (count: number) =>
  Array.from(
    { length: count },
    (_, at) => `## Berth ${at}\nBerth ${at} takes ${at + 2} boats, and its lamp is number ${at * 7}.\n`,
  ).join("\n");
const rules = `# Rules

## Bicycles
A bicycle costs €2.00 each way and needs a place.

## Refunds
Tickets are refunded in full until 24 hours before the sailing.

${chapters(60)}`;

let makers: VectorProvider;
test.beforeEach(async () => {
  makers = await VectorProvider.start();
});
test.afterEach(() => makers.stop());

/** Wires the provider that makes vectors; gives its lasting name. */
async function wireMakers(world: World): Promise<string> {
  const { slug } = await world.bench<{ slug: string }>("POST", "providers", {
    name: `Looms ${makers.address.slice(-5)}`,
    address: makers.address,
    profile: "chat-completions",
    credential: { kind: "none" },
    models: [{ name: "weft", window: 2_000, price: { input: 0.02, output: 0, currency: "EUR" }, can: ["vectors"] }],
  });
  return slug;
}

interface Desk {
  slug: string;
  provider: string;
  source: Source;
}

/** An app that looks for passages by meaning, once their vectors are made. */
async function desk(world: World): Promise<Desk> {
  const provider = await wireMakers(world);
  const slug = await world.makeApp(`Desk ${makers.address.slice(-5)}`, { model: "reed-deep" });
  const source = await addFile(world, slug, "rules.md", rules);
  await world.editDraft(slug, sourcesOf(source, provider));
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: draft });
  return { slug, provider, source };
}

const sourcesOf = ({ id }: Source, provider: string, more: Partial<Content["sources"]> = {}): Partial<Content> => ({
  sources: { documents: [{ source: id }], meaning: { provider, model: "weft" }, ...more },
});

const standing = async (world: World, slug: string) =>
  (await world.bench<{ vectors: VectorsStanding | null }>("GET", `apps/${slug}/sources`)).vectors;
const whenMade = (world: World, slug: string) =>
  expect
    .poll(async () => {
      const vectors = await standing(world, slug);
      return vectors !== null && vectors.passages > 0 && vectors.made === vectors.passages;
    })
    .toBe(true);
const find = (world: World, slug: string, question: string) =>
  world.bench<FoundAnswer>("GET", `apps/${slug}/found?question=${encodeURIComponent(question)}`);

test("passages are found by meaning beside their words: vectors are made many in a call, counted and paid for", async ({
  world,
}) => {
  const { slug } = await desk(world);
  await whenMade(world, slug);
  const passages = (await standing(world, slug))?.passages ?? 0;
  expect(passages).toBeGreaterThan(60);
  expect(makers.calls.length).toBeLessThan(passages / 10);
  // none of its words stands there
  const other = await find(world, slug, "How expensive are bikes?");
  expect(other.wordsAlone).toBeUndefined();
  expect(other.found[0]?.text).toContain("A bicycle costs");
  const both = await find(world, slug, "What does a bicycle cost?");
  expect(both.found[0]?.text).toContain("A bicycle costs");
  const asked = makers.calls.length;
  await find(world, slug, "What does a bicycle cost?");
  expect(makers.calls.length).toBe(asked);
  const reply = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    body: JSON.stringify({ message: "What does a bicycle cost?" }),
  });
  expect(((await reply.json()) as { text: string }).text).toContain("€2.00");
});

test("nothing is asked for twice: over a restart, a changed document, and other sizes that give the same passages", async ({
  world,
}) => {
  const { slug, provider, source } = await desk(world);
  await whenMade(world, slug);
  expect(makers.twice()).toEqual([]);
  const first = makers.texts.length;
  await world.killWeb();
  await world.startWeb();
  await find(world, slug, "Refunds?");
  await addFile(world, slug, "rules.md", rules.replace("€2.00", "€2.50"));
  await expect.poll(async () => (await find(world, slug, "bicycle")).found[0]?.text).toContain("€2.50");
  await whenMade(world, slug);
  expect(makers.twice()).toEqual([]);
  // of the changed document only what is new in it
  expect(makers.texts.length - first).toBeLessThan(8);
  const before = makers.texts.length;
  await world.editDraft(slug, sourcesOf(source, provider, { overlap: 0 }));
  await whenMade(world, slug);
  await world.editDraft(slug, sourcesOf(source, provider));
  await whenMade(world, slug);
  expect(makers.twice()).toEqual([]);
  expect(makers.texts.length - before).toBeLessThan(70);
});

test("what a kill cuts off in the midst of making vectors is gone on with, and nothing of it made again", async ({
  world,
}) => {
  const provider = await wireMakers(world);
  const slug = await world.makeApp(`Cut off ${makers.address.slice(-5)}`, { model: "reed-deep" });
  const source = await addFile(world, slug, "rules.md", `# Berths\n\n${chapters(400)}`);
  makers.hangsAfter = 3;
  await world.editDraft(slug, sourcesOf(source, provider, { size: 40, overlap: 0 }));
  await expect.poll(() => makers.isHanging).toBe(true);
  await world.killWeb();
  const asked = makers.texts.length;
  makers.hangsAfter = undefined;
  await world.startWeb();
  await whenMade(world, slug);
  // the call that was cut off had no answer: what was answered before is not asked for again
  expect(makers.twice()).toEqual([]);
  expect(makers.texts.length).toBeGreaterThan(asked);
});

test("a question or a passage that points nowhere, or is too long for the model, harms nothing beside itself", async ({
  world,
}) => {
  const { slug, provider, source } = await desk(world);
  const long = await addFile(
    world,
    slug,
    "long.md",
    `# Odd\n\n## Stars\n* * *\n\n## Nets\n${"Nets are mended. ".repeat(1_500)}`,
  );
  await world.editDraft(slug, {
    sources: {
      documents: [{ source: source.id }, { source: long.id }],
      meaning: { provider, model: "weft" },
      size: 4_000,
      overlap: 0,
    },
  });
  await whenMade(world, slug);
  expect(Math.max(...makers.texts.map((text) => text.length))).toBeLessThan(12_000);
  expect((await find(world, slug, "?! ...")).wordsAlone?.detail).toContain("nothing but zeros");
  const next = await find(world, slug, "How expensive are bikes?");
  expect(next.wordsAlone).toBeUndefined();
  expect(next.found.length).toBeGreaterThan(0);
  await find(world, slug, "bikes ".repeat(300));
  expect(makers.texts.at(-1)?.length).toBeLessThanOrEqual(1_500);
});

const faults: [fault: VectorFault, says: RegExp][] = [
  ["status 500", /status 500.*The loom is broken/],
  ["status 401", /status 401.*The loom is broken/],
  ["not JSON", /not JSON/],
  ["one too few", /2 vectors were asked for, and 1 stand/],
  ["no numbers", /no list of numbers/],
  ["nothing but zeros", /nothing but zeros/],
  ["another length", /vectors of 257 numbers now, and those that are kept have 256/],
  ["other vectors", /makes other vectors than it did/],
  ["hangs", /2\.5 s|time|limit/i],
  ["gone", /connection|closed|reached/i],
];

for (const [fault, says] of faults)
  test(`a provider of vectors that fails is named, and the app answers by words meanwhile: ${fault}`, async ({
    world,
  }) => {
    const { slug } = await desk(world);
    await whenMade(world, slug);
    // a process that knows nothing of it yet
    await world.killWeb();
    await world.startWeb();
    makers.fault = fault;
    const { found, wordsAlone } = await find(world, slug, "What does a bicycle cost?");
    expect(wordsAlone?.detail).toMatch(says);
    expect(found[0]?.text).toContain("A bicycle costs");
    const reply = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify({ message: "What does a bicycle cost?" }),
    });
    const answer = (await reply.json()) as { text: string; conversation: string };
    expect(answer.text).toContain("€2.00");
    const line = await world.bench<{ messages: { facts?: { wordsAlone?: { detail: string } } }[] }>(
      "GET",
      `conversations/${answer.conversation}`,
    );
    expect(line.messages.at(-1)?.facts?.wordsAlone?.detail).toMatch(says);
  });

test("vectors that can't be made are told of with why, and are gone on with; those of a changed model are made anew", async ({
  world,
}) => {
  makers.fault = "status 500";
  const { slug } = await desk(world);
  await expect.poll(async () => (await standing(world, slug))?.problem?.detail ?? "").toContain("The loom is broken");
  expect(await standing(world, slug)).toMatchObject({ made: 0, isPriced: true, tokens: expect.any(Number) });
  makers.fault = "none";
  await world.bench("POST", `apps/${slug}/sources/vectors`, {});
  await whenMade(world, slug);
  expect((await find(world, slug, "How expensive are bikes?")).found[0]?.text).toContain("A bicycle costs");
  makers.fault = "other vectors";
  await world.bench("POST", `apps/${slug}/sources/vectors`, { anew: true });
  await whenMade(world, slug);
  expect((await find(world, slug, "How expensive are bikes?")).found[0]?.text).toContain("A bicycle costs");
});
