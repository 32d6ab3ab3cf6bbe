import type { Comparison, Lane } from "@/contract/comparisons";
import type { Dispatch } from "@/contract/dispatches";
import { textOf } from "@/core/conversation/pieces";
import type { Content } from "@/core/revision/content";
import { expect, noLimits, type StandInName, standIns, test, World } from "../e2e/fixtures";
import { finch } from "./terminal";

const models: Record<StandInName, string> = {
  Reedbed: "reed-swift",
  Saltpan: "pan-clear",
  Tidegate: "tide-wide",
  Lantern: "lantern-one",
  Bellhouse: "bell-plain",
};

/** The live content of an app, with something else in it. */
async function contentOf(world: World, slug: string, change: Partial<Content> = {}): Promise<Content> {
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  return { ...draft, ...change };
}

const lanesOf = (contents: readonly Content[]) => contents.map((content) => ({ base: "live", content }));

const compare = (world: World, slug: string, contents: readonly Content[], message: string, more: object = {}) =>
  world.bench<Comparison>("POST", `apps/${slug}/comparisons`, { lanes: lanesOf(contents), message, ...more });

/** How each lane stands in each turn. */
const states = ({ lanes }: Comparison) =>
  lanes
    .filter(({ isLeft }) => !isLeft)
    .map(({ turns }) => turns.map(({ reply, problem }) => reply?.state ?? problem?.kind));

/** Waits until no lane has anything to come. */
async function whenEnded(world: World, id: string): Promise<Comparison> {
  let comparison = await world.bench<Comparison>("GET", `comparisons/${id}`);
  await expect
    .poll(
      async () => {
        comparison = await world.bench<Comparison>("GET", `comparisons/${id}`);
        const turns = comparison.turns.length;
        return states(comparison).every(
          (lane) => lane.length === turns && lane.every((state) => state !== "waiting" && state !== "arriving"),
        );
      },
      { timeout: 60_000 },
    )
    .toBe(true);
  return comparison;
}

const dispatchesOf = async (world: World, lane: Lane, turn = 0) =>
  (await world.bench<{ dispatches: Dispatch[] }>("GET", `replies/${lane.turns[turn]?.reply?.id}/dispatches`))
    .dispatches;

test("six lanes over five providers answer at once, and every figure is that of its dispatch", async ({ world }) => {
  for (const name of standIns) await world.wire(name);
  await world.pace("own");
  const slug = await world.makeApp("Six lanes");
  const { providers } = await world.bench<{ providers: { name: string; slug: string }[] }>("GET", "providers");
  const contents = await Promise.all([
    ...standIns.map((name) =>
      contentOf(world, slug, {
        provider: providers.find((each) => each.name === name)?.slug ?? "",
        model: models[name],
      }),
    ),
    contentOf(world, slug, { model: "reed-deep" }),
  ]);
  const { id } = await compare(world, slug, contents, "Which boats to Tansy Holm take bicycles on Sunday?");
  const { lanes } = await whenEnded(world, id);
  expect(lanes.map(({ turns }) => turns[0]?.reply?.state)).toEqual(Array(6).fill("complete"));
  const began = lanes.map(({ turns }) => turns[0]?.askedAt ?? 0);
  expect(Math.max(...began) - Math.min(...began)).toBeLessThan(1_000);
  for (const lane of lanes) {
    const [turn] = lane.turns;
    const [dispatch, ...more] = await dispatchesOf(world, lane);
    if (!dispatch || !turn?.reply || !turn.readings) throw new Error("A lane has no dispatch.");
    expect(more).toEqual([]);
    expect([dispatch.provider, dispatch.model]).toEqual([lane.content.provider, lane.content.model]);
    expect(turn.readings.ms).toBe(dispatch.ms);
    const firstText = dispatch.arrivals.find(({ read }) => read.some((each) => each.startsWith("text: ")));
    expect(turn.readings.firstTextMs).toBe(firstText?.at);
    expect(turn.reply.facts.usage).toEqual(dispatch.usage);
    expect(textOf(turn.reply)).toBe(dispatch.text);
    const characters = turn.track?.arrivals.reduce((sum, arrival) => sum + arrival.text, 0);
    expect(characters).toBe(dispatch.text.length);
  }
});

test("a lane that is added or changed is asked all that was asked so far; one that is left out is asked no more", async ({
  world,
}) => {
  const slug = await world.makeApp("On the way");
  const plain = await contentOf(world, slug);
  const other = { ...plain, model: "reed-deep" };
  const { id } = await compare(world, slug, [plain, other], "I'm Ivo, and I bring two bicycles.");
  await whenEnded(world, id);
  await world.bench("POST", `comparisons/${id}/turns`, { message: "What is my name?" });
  await whenEnded(world, id);

  await world.bench("POST", `comparisons/${id}/lanes`, {
    base: "draft",
    content: { ...plain, prompt: "You are Third." },
  });
  const third = (await whenEnded(world, id)).lanes[2];
  expect(third?.turns.map(({ reply }) => reply && textOf(reply))).toEqual([
    expect.stringContaining("Ivo"),
    expect.stringContaining("Ivo"),
  ]);

  const before = await world.bench<Comparison>("GET", `comparisons/${id}`);
  await world.bench("PUT", `lanes/${before.lanes[1]?.id}`, {
    base: "live",
    content: { ...other, memory: { kind: "nothing" } },
  });
  const changed = await whenEnded(world, id);
  const open = changed.lanes.filter(({ isLeft }) => !isLeft);
  expect(open.map(({ content }) => content.memory.kind)).toEqual(["everything", "nothing", "everything"]);
  expect(open[1]?.turns).toHaveLength(2);
  expect(textOf(open[1]?.turns[1]?.reply ?? { pieces: [] })).not.toContain("your name is Ivo");

  await world.bench("DELETE", `lanes/${open[0]?.id}`);
  await world.bench("POST", `comparisons/${id}/turns`, { message: "Goodbye" });
  const three = await whenEnded(world, id);
  expect(three.lanes.filter(({ isLeft }) => !isLeft).map(({ turns }) => turns.length)).toEqual([3, 3]);
  expect(three.lanes.find((lane) => lane.id === open[0]?.id)?.turns).toHaveLength(2);
  await world.bench("POST", `lanes/${open[0]?.id}/restore`);
  expect((await whenEnded(world, id)).lanes.find((lane) => lane.id === open[0]?.id)?.turns).toHaveLength(3);
});

test("lanes go on from a message of a conversation, stay out of the history, and are gone on with in one", async ({
  world,
}) => {
  const slug = await world.makeApp("From a line");
  const said = await (
    await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({ message: "I'm Ivo." }),
    })
  ).json();
  const plain = await contentOf(world, slug);
  const { id } = await compare(world, slug, [plain, { ...plain, model: "reed-deep" }], "What is my name?", {
    after: said.reply,
  });
  const ended = await whenEnded(world, id);
  expect(ended.turnsBefore).toBe(1);
  for (const lane of ended.lanes) expect(textOf(lane.turns[0]?.reply ?? { pieces: [] })).toContain("Ivo");
  // what it goes on from is its own, and nothing of it is in the history
  await world.bench("DELETE", `conversations/${said.conversation}`);
  await world.bench("POST", `comparisons/${id}/turns`, { message: "And who am I?" });
  const again = await whenEnded(world, id);
  expect(textOf(again.lanes[0]?.turns[1]?.reply ?? { pieces: [] })).toContain("Ivo");
  const listed = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
  expect(listed.conversations).toEqual([]);

  const { conversation } = await world.bench<{ conversation: string }>(
    "POST",
    `lanes/${again.lanes[1]?.id}/conversation`,
  );
  const line = await world.bench<{ messages: { role: string; turn: number }[]; origin: string }>(
    "GET",
    `conversations/${conversation}`,
  );
  expect([line.origin, line.messages.map(({ role, turn }) => `${role} ${turn}`)]).toEqual([
    "bench",
    ["visitor 1", "app 1", "visitor 2", "app 2", "visitor 3", "app 3"],
  ]);
  expect(
    (await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`)).conversations,
  ).toHaveLength(1);
});

test("a comparison is named, listed, copied, deleted and restored", async ({ world }) => {
  const slug = await world.makeApp("Kept");
  const plain = await contentOf(world, slug);
  const { id } = await compare(world, slug, [plain, plain], "What does a dog cost?", { name: "dogs" });
  const first = await whenEnded(world, id);
  await world.bench("PATCH", `comparisons/${id}`, { name: "dogs on board" });
  const copy = await world.bench<Comparison>("POST", `comparisons/${id}/copy`, { name: "a copy" });
  expect(copy.lanes.map(({ turns }) => turns.map(({ reply }) => reply && textOf(reply)))).toEqual(
    first.lanes.map(({ turns }) => turns.map(({ reply }) => reply && textOf(reply))),
  );
  const names = async () =>
    (
      await world.bench<{ comparisons: { name: string; turns: number; lanes: number }[] }>(
        "GET",
        `apps/${slug}/comparisons`,
      )
    ).comparisons.map(({ name, turns, lanes }) => `${name}: ${turns}, ${lanes}`);
  expect(await names()).toEqual(["a copy: 1, 2", "dogs on board: 1, 2"]);
  await world.bench("DELETE", `comparisons/${id}`);
  expect(await names()).toEqual(["a copy: 1, 2"]);
  expect((await fetch(`${world.address}/api/bench/comparisons/${id}`)).status).toBe(404);
  await world.bench("POST", `comparisons/${id}/restore`);
  expect(await names()).toHaveLength(2);
  // the copy is gone on with by itself
  await world.bench("POST", `comparisons/${copy.id}/turns`, { message: "And a cat?" });
  expect((await whenEnded(world, copy.id)).lanes.map(({ turns }) => turns.length)).toEqual([2, 2]);
});

test("a fact is marked, and the mark is there wherever that is asked again", async ({ world }) => {
  const slug = await world.makeApp("Marked");
  const plain = await contentOf(world, slug);
  const question = "What does a bicycle cost?";
  const { id } = await compare(world, slug, [plain, plain], question);
  await world.bench("PUT", `apps/${slug}/fact-marks`, { question, fact: "EUR 2", isRight: true });
  await world.bench("PUT", `apps/${slug}/fact-marks`, { question, fact: "17:30", isRight: false });
  await whenEnded(world, id);
  const other = await compare(world, slug, [plain, plain], "what does a  bicycle COST?");
  expect(other.turns[0]?.marks.toSorted((a, b) => (a.fact < b.fact ? -1 : 1))).toEqual([
    { fact: "17:30", isRight: false },
    { fact: "EUR 2", isRight: true },
  ]);
  await world.bench("PUT", `apps/${slug}/fact-marks`, { question, fact: "17:30", isRight: null });
  expect((await whenEnded(world, id)).turns[0]?.marks).toEqual([{ fact: "EUR 2", isRight: true }]);
});

test("the limit of a day holds for lanes, one of which that can't be asked leaves the others alone", async ({
  world,
}) => {
  const slug = await world.makeApp("Limited", {}, { limits: { ...noLimits, day: 0.0005 } });
  const plain = await contentOf(world, slug, { settings: { maxOutput: 40 } });
  const dear = { ...plain, model: "reed-deep", settings: { maxOutput: 100_000 } };
  const gone = { ...plain, provider: "nobody" };
  const { id } = await compare(world, slug, [plain, dear, gone], "What does a dog cost?");
  const { lanes } = await whenEnded(world, id);
  expect(lanes.map(({ turns }) => turns[0]?.problem?.kind ?? turns[0]?.reply?.state)).toEqual([
    expect.stringMatching(/complete|cut/),
    expect.stringMatching(/over-limit|too-long/),
    "misconfigured",
  ]);
});

test("from a terminal candidates are asked and what they took is a table, or all of it is JSON", async ({ world }) => {
  const slug = await world.makeApp("From a terminal");
  await world.wire("Saltpan");
  await world.editDraft(slug, { model: "reed-deep", prompt: 'End every reply with "Be there at 7:15."' });
  const table = await finch(world, [
    "compare",
    slug,
    "--with",
    "draft",
    "--with",
    "pan-clear",
    "What does a bicycle cost?",
  ]);
  expect([table.code, table.out]).toEqual([0, expect.stringMatching(/^live +complete +[\d.]+ s/m)]);
  expect(table.out).toMatch(/^07:15 +– +states it +–$/m);
  expect(table.err).toMatch(/Saved as cmp_/);

  const json = await finch(world, [
    "compare",
    slug,
    "--with",
    "1",
    "--json",
    "--name",
    "by hand",
    "What does a dog cost?",
  ]);
  expect(JSON.parse(json.out)).toMatchObject({
    message: "What does a dog cost?",
    lanes: [
      { lane: "live", state: "complete", model: "reed-swift" },
      { lane: "revision 1", state: "complete" },
    ],
  });

  const wrong = await finch(world, ["compare", slug, "--with", "no-such-model", "Hello"]);
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining("There is no model no-such-model")]);
  expect((await finch(world, ["compare", "no-such-app", "Hello"])).code).toBe(2);

  await world.pace(20);
  const stopped = await finch(world, ["compare", slug, "--json", "Tell me a long story about the ferry"], {
    onStart: async (child) => {
      const newest = async () => {
        const path = `apps/${slug}/comparisons`;
        const { comparisons } = await world.bench<{ comparisons: { opening: string }[] }>("GET", path);
        return comparisons[0]?.opening;
      };
      await expect.poll(newest).toMatch(/^Tell me a long/);
      child.kill("SIGINT");
    },
  });
  expect(stopped.code).toBe(130);
  expect(JSON.parse(stopped.out).lanes).toMatchObject([{ state: "stopped" }, { state: "stopped" }]);
});

test("each lane tells its own story: held to one place, limited, failing, stopped, cut off by a kill", async () => {
  test.setTimeout(300_000);
  const world = await World.make();
  await world.start();
  try {
    for (const name of standIns) await world.wire(name);
    const reedbed = await world.wire("Reedbed");
    await world.bench("PATCH", `providers/${reedbed}`, { atOnce: 1 });
    await world.bench("PATCH", `providers/${await world.wire("Saltpan")}`, { retries: 2 });
    const slug = await world.makeApp("Own stories", { settings: {} });
    const { providers } = await world.bench<{ providers: { name: string; slug: string }[] }>("GET", "providers");
    const on = (name: StandInName) => ({
      provider: providers.find((each) => each.name === name)?.slug ?? "",
      model: models[name],
    });
    const plain = await contentOf(world, slug);
    await world.pace(60);
    await world.fault({ fault: "status", status: 429, retryAfter: 1, calls: 1 }, "Saltpan");
    await world.fault({ fault: "status", status: 500, calls: 5 }, "Tidegate");
    const { id, lanes } = await compare(
      world,
      slug,
      [plain, { ...plain, model: "reed-deep" }, { ...plain, ...on("Saltpan") }, { ...plain, ...on("Tidegate") }],
      "Tell me a story about the ferry",
    );
    const [held, behind, limited, failing] = lanes.map((lane) => lane.id);
    const now = async () => {
      const comparison = await world.bench<Comparison>("GET", `comparisons/${id}`);
      return (lane: string | undefined) => comparison.lanes.find((each) => each.id === lane)?.turns[0];
    };
    await expect.poll(async () => (await now())(held)?.reply?.state).toBe("arriving");
    expect((await now())(behind)?.reply?.next?.because.kind).toBe("at-capacity");
    await expect.poll(async () => (await now())(failing)?.reply?.state).toBe("failed");
    await expect.poll(async () => (await now())(limited)?.reply?.state).toBe("arriving");
    await world.bench("POST", `lanes/${limited}/stop`);
    await expect.poll(async () => (await now())(limited)?.reply?.state).toBe("stopped");

    const asked = (await world.calls()).length;
    await world.killWeb();
    await world.pace("instant");
    await world.startWeb();
    const ended = await whenEnded(world, id);
    expect(states(ended)).toEqual([["complete"], ["complete"], ["stopped"], ["failed"]]);
    // what was cut off was asked once more, as another take; what had ended was not
    expect(ended.lanes.map(({ turns }) => turns[0]?.reply?.siblings.length)).toEqual([2, 2, 0, 0]);
    const calls = (await world.calls()).slice(asked);
    expect(calls.map(({ model }) => model).sort()).toEqual(["reed-deep", "reed-swift"]);
    // what waited for its place has that apart from its readings
    const place = ended.lanes.map(({ turns }) => turns[0]?.track?.waits.find((wait) => wait.for === "place"));
    expect(place[2]).toBeUndefined();

    // and a second stop of the process leaves what it cut off as it is, once that was tried again
    await world.pace(40);
    await world.bench("POST", `comparisons/${id}/turns`, { message: "Tell me another story about the ferry" });
    for (const _ of [1, 2]) {
      await expect
        .poll(async () => states(await world.bench<Comparison>("GET", `comparisons/${id}`))[0]?.[1])
        .toBe("arriving");
      await world.killWeb();
      await world.startWeb();
    }
    const given = await world.bench<Comparison>("GET", `comparisons/${id}`);
    expect(states(given)[0]).toEqual(["complete", "interrupted"]);
  } finally {
    await world.stop();
  }
});
