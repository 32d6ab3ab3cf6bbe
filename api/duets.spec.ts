import { readFileSync } from "node:fs";
import type { Duet } from "@/contract/duets";
import { textOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { expect, test, World } from "../e2e/fixtures";

const quayDesk = readFileSync("demo/quay-desk/prompt.txt", "utf8").trim();

/** A pair of the demo, the second of whom is Quay Desk where the pair says nothing else. */
async function pair(world: World, name: string, slug: string) {
  const { first, second, ...rest } = JSON.parse(readFileSync(`demo/duets/${name}.json`, "utf8"));
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  const side = (change: object | undefined) => ({ base: "live", content: { ...draft, ...change } });
  return { ...rest, sides: [side(first), side(second)] };
}

const makeDesk = (world: World) =>
  world.makeApp("Desk", { prompt: quayDesk, model: "reed-swift", memory: { kind: "everything" } });

const read = (world: World, id: string) => world.bench<Duet>("GET", `duets/${id}`);
const saidIn = ({ utterances }: Duet) => utterances.map(({ reply }) => (reply ? textOf(reply) : ""));

async function ended(world: World, id: string): Promise<Duet> {
  await expect.poll(async () => (await read(world, id)).ended, { timeout: 120_000 }).not.toBeNull();
  return read(world, id);
}

interface Sent {
  role: string;
  content: string;
}

/** What was sent for a reply, as its dispatch has it. */
async function sentFor(world: World, reply: string): Promise<Sent[]> {
  const { dispatches } = await world.bench<{ dispatches: { request: { body: string } }[] }>(
    "GET",
    `replies/${reply}/dispatches`,
  );
  return (JSON.parse(dispatches[0]?.request.body ?? "{}") as { messages: Sent[] }).messages;
}

test("twenty rounds: each is the other's visitor in every request, and a kill in the midst loses and repeats nothing", async () => {
  test.setTimeout(300_000);
  const world = await World.make();
  await world.start();
  try {
    await world.pace(80);
    const slug = await makeDesk(world);
    const wanted = await pair(world, "talks-on", slug);
    const { id } = await world.bench<Duet>("POST", `apps/${slug}/duets`, { ...wanted, rounds: 20 });
    await expect.poll(async () => (await read(world, id)).utterances.length, { timeout: 60_000 }).toBeGreaterThan(10);
    await world.killWeb();
    await world.startWeb();
    const before = await read(world, id);
    await world.pace("instant");
    const duet = await ended(world, id);
    expect([duet.ended, duet.utterances.length]).toEqual([{ kind: "rounds" }, 40]);
    const said = saidIn(duet);
    expect(said.every((text) => text !== "")).toBe(true);
    // what had been said before the kill stands as it was
    const whole = before.utterances.filter(({ reply }) => reply?.state === "complete");
    expect(whole.length).toBeGreaterThan(8);
    expect(said.slice(0, whole.length)).toEqual(saidIn({ ...before, utterances: whole }));
    for (const at of [1, 2, 19, 38, 39]) {
      const utterance = duet.utterances[at];
      const side = utterance?.side ?? 0;
      const messages = await sentFor(world, utterance?.reply?.id ?? "");
      const told = side === wanted.opener ? [wanted.cue, ...said.slice(0, at)] : said.slice(0, at);
      expect(messages[0]?.role).toBe("system");
      expect(messages[0]?.content).toContain(side === 0 ? "You are a curious passenger" : "You are Quay Desk");
      expect(messages.slice(1)).toEqual(
        told.map((content, place) => ({ role: place % 2 === 0 ? "user" : "assistant", content })),
      );
    }
    const other = await ended(
      world,
      (await world.bench<Duet>("POST", `apps/${slug}/duets`, { ...wanted, opener: 1, opening: "", rounds: 1 })).id,
    );
    expect(other.utterances.map(({ side }) => side)).toEqual([1, 0]);
  } finally {
    await world.stop();
  }
});

test("the three pairs end as they should: in circles, with a goodbye, and not before their rounds", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await makeDesk(world);
  const ends: Record<string, Duet> = {};
  for (const name of ["circles", "goodbye", "talks-on"]) {
    const { id } = await world.bench<Duet>("POST", `apps/${slug}/duets`, {
      ...(await pair(world, name, slug)),
      rounds: 24,
    });
    ends[name] = await ended(world, id);
  }
  expect(ends.circles?.ended).toMatchObject({ kind: "circles" });
  expect(ends.circles?.utterances.length).toBeLessThan(48);
  expect(ends.goodbye?.ended).toEqual({ kind: "goodbye" });
  expect(ends["talks-on"]?.ended).toEqual({ kind: "rounds" });
  expect(ends["talks-on"]?.circles).toBeLessThan(0.75);
  // in History and in lists of conversations there is nothing of them
  const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
  expect(conversations).toEqual([]);
});

test("a duet is stopped, goes on within other limits, and hears a word that is put in", async ({ world }) => {
  await world.pace("instant");
  const slug = await makeDesk(world);
  const wanted = await pair(world, "talks-on", slug);
  const begun = await world.bench<Duet>("POST", `apps/${slug}/duets`, { ...wanted, rounds: 2 });
  const first = await ended(world, begun.id);
  expect([first.ended, first.utterances.length, first.price > 0]).toEqual([{ kind: "rounds" }, 4, true]);

  await world.bench("POST", `duets/${begun.id}/words`, { to: [0, 1], text: "Mind the fog." });
  await world.bench("POST", `duets/${begun.id}/resume`, { rounds: 3 });
  const second = await ended(world, begun.id);
  expect(second.utterances.map(({ words }) => words)).toEqual([[], [], [], [], ["Mind the fog."], ["Mind the fog."]]);
  const messages = await sentFor(world, second.utterances[4]?.reply?.id ?? "");
  expect(messages.at(-1)).toEqual({ role: "user", content: `${saidIn(second)[3]}\n\nMind the fog.` });

  const dearest = Math.max(...second.utterances.map(({ reply }) => reply?.facts.usage?.price ?? 0));
  await world.bench("POST", `duets/${begun.id}/resume`, { rounds: 50, mostPrice: second.price + dearest * 3 });
  const third = await ended(world, begun.id);
  expect(third.ended).toEqual({ kind: "price" });
  expect(third.price).toBeLessThanOrEqual(second.price + dearest * 3);
  await world.bench("POST", `duets/${begun.id}/resume`, { rounds: 50, mostTokens: third.tokens + 1 });
  expect((await ended(world, begun.id)).ended).toEqual({ kind: "tokens" });

  await world.pace(400);
  await world.bench("POST", `duets/${begun.id}/resume`, { rounds: 50 });
  await expect
    .poll(async () => (await read(world, begun.id)).utterances.at(-1)?.reply?.state)
    .toMatch(/waiting|arriving/);
  const stopped = await world.bench<Duet>("POST", `duets/${begun.id}/stop`, {});
  expect(stopped.ended).toEqual({ kind: "stopped" });
  await expect(world.bench("POST", `duets/${begun.id}/words`, { to: [], text: "x" })).rejects.toThrow(/400/);
  await world.pace("instant");

  const markdown = await (await fetch(`${world.address}/api/bench/duets/${begun.id}/file?as=markdown`)).text();
  expect(markdown).toContain("**reed-swift (1)**\n\nGood day. I have never been on a ferry");
  expect(markdown).toContain("*(to reed-swift (1): Mind the fog.)*");
  const lines = (await (await fetch(`${world.address}/api/bench/duets/${begun.id}/file?as=jsonl`)).text())
    .trim()
    .split("\n");
  expect(JSON.parse(lines[4] ?? "")).toMatchObject({
    number: 5,
    speaker: 1,
    told: ["Mind the fog."],
    state: "complete",
  });
});

test("what a provider does not answer ends a duet with the reason, and going on says it once more", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await makeDesk(world);
  const wanted = await pair(world, "goodbye", slug);
  await world.fault({ fault: "status", status: 500, calls: 1 });
  const { id } = await world.bench<Duet>("POST", `apps/${slug}/duets`, { ...wanted, rounds: 10 });
  const failed = await ended(world, id);
  expect(failed.ended).toMatchObject({ kind: "failed", problem: { kind: "overloaded" } });
  await world.bench("POST", `duets/${id}/resume`, { rounds: 10 });
  const mended = await ended(world, id);
  expect([mended.ended, mended.utterances[0]?.reply?.state]).toEqual([{ kind: "goodbye" }, "complete"]);
  await expect(world.bench("POST", `apps/${slug}/duets`, { ...wanted, rounds: 51 })).rejects.toThrow(/rounds/);
  await world.bench("DELETE", `duets/${id}`, undefined);
  await expect(read(world, id)).rejects.toThrow(/no duet/);
  await world.bench("POST", `duets/${id}/restore`, {});
  expect((await read(world, id)).utterances.length).toBe(mended.utterances.length);
});
