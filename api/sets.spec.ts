import { parse } from "csv-parse/sync";
import type { MessageSet } from "@/contract/sets";
import type { SetAhead } from "@/core/comparing/sets/answer";
import type { Content } from "@/core/revision/content";
import { expect, test, World } from "../e2e/fixtures";

const questions = Array.from({ length: 50 }, (_, at) => [
  `What does it cost to carry ${at + 1} bicycles to Tansy Holm?`,
]);

const read = (world: World, id: string) => world.bench<MessageSet>("GET", `sets/${id}`);

async function ended(world: World, id: string): Promise<MessageSet> {
  await expect.poll(async () => (await read(world, id)).state, { timeout: 120_000 }).not.toMatch(/running|waiting/);
  return read(world, id);
}

/** What was answered, without what differs from one time to the next. */
const saidIn = ({ answers }: MessageSet) =>
  new Map(answers.map(({ row, lane, replies }) => [`${row} ${lane}`, replies.map(({ text }) => text)]));

/** How often a stand-in was called since that was forgotten. */
async function callsOf(world: World, standIn: "Reedbed" | "Saltpan" | "Lantern"): Promise<number> {
  return ((await (await fetch(`${world.at(standIn)}/standin/calls`)).json()) as unknown[]).length;
}

async function draftOf(world: World, slug: string): Promise<Content> {
  return (await world.bench<{ draft: Content }>("GET", `apps/${slug}`)).draft;
}

test("fifty messages for four lanes: one held to two places, one rate limited, one failing, and a kill in the midst; what ended is not asked again, and the price said first holds", async () => {
  test.setTimeout(300_000);
  const world = await World.make();
  await world.start();
  try {
    await world.pace(60);
    await world.bench("PATCH", `providers/${await world.wire("Saltpan")}`, { atOnce: 2 });
    await Promise.all([world.wire("Tidegate"), world.wire("Lantern")]);
    const { providers } = await world.bench<{ providers: { name: string; slug: string }[] }>("GET", "providers");
    const slugOf = (name: string) => providers.find((each) => each.name === name)?.slug ?? "";
    await world.fault({ fault: "status", status: 429, retryAfter: 1, calls: 12 }, "Tidegate");
    await world.fault({ fault: "status", status: 500 }, "Lantern");
    const slug = await world.makeApp("Fares", { prompt: "You are Quay Desk.", settings: { maxOutput: 60 } });
    const content = await draftOf(world, slug);
    const lanes = [
      content,
      { ...content, provider: slugOf("Saltpan"), model: "pan-clear" },
      { ...content, provider: slugOf("Tidegate"), model: "tide-wide" },
      { ...content, provider: slugOf("Lantern"), model: "lantern-one" },
    ].map((each) => ({ base: "live" as const, content: each }));
    const ahead = await world.bench<{ lanes: SetAhead[] }>("POST", `apps/${slug}/sets-ahead`, {
      lanes,
      rows: questions,
    });
    const most = ahead.lanes.reduce((sum, lane) => sum + (lane.most ?? Number.NaN), 0);
    expect(most).toBeGreaterThan(0);
    await world.forgetCalls();
    const { id } = await world.bench<MessageSet>("POST", `apps/${slug}/sets`, { lanes, rows: questions });
    await expect.poll(async () => (await read(world, id)).answers.length, { timeout: 60_000 }).toBeGreaterThan(40);
    await world.killWeb();
    await world.startWeb();
    const atStart = await read(world, id);
    expect(atStart.answers.length).toBeGreaterThan(40);
    const set = await ended(world, id);
    expect([set.done, set.of, set.state, set.problem]).toEqual([200, 200, "done", null]);
    expect(set.answers).toHaveLength(200);
    // what had ended before the kill is what it was, to the letter and the making
    for (const answer of atStart.answers) expect(set.answers.find(({ seq }) => seq === answer.seq)).toEqual(answer);
    const problems = (lane: number) =>
      set.answers
        .filter((answer) => answer.lane === lane)
        .flatMap(({ replies }) => replies.at(-1)?.figures.problem ?? []);
    expect([0, 1, 2].map((lane) => problems(lane).length)).toEqual([0, 0, 0]);
    expect(problems(3)).toHaveLength(50);
    expect(new Set(problems(3).map(({ kind }) => kind))).toEqual(new Set(["overloaded"]));
    expect(set.price).toBeLessThanOrEqual(most);
    expect(set.price).toBeGreaterThan(0);

    // nothing was sent again but what the kill cut off: no more than were under way at once
    expect(await callsOf(world, "Reedbed")).toBeLessThanOrEqual(50 + 8);
    expect(await callsOf(world, "Saltpan")).toBeLessThanOrEqual(50 + 2);

    const csv = await (await fetch(`${world.address}/api/bench/sets/${id}/file?as=csv`)).text();
    const records = parse(csv, { columns: true }) as Record<string, string>[];
    expect(records).toHaveLength(200);
    expect(records[0]).toMatchObject({ row: "1", message: questions[0]?.[0], lane: "1", model: "reed-swift" });
    expect(records.filter(({ outcome }) => outcome === "complete" || outcome === "cut")).toHaveLength(150);
    const lines = (await (await fetch(`${world.address}/api/bench/sets/${id}/file?as=jsonl`)).text())
      .trim()
      .split("\n");
    expect(lines).toHaveLength(50);
    expect(JSON.parse(lines[7] ?? "")).toMatchObject({ messages: questions[7], answers: [{ lane: 1 }, {}, {}, {}] });

    // once it answers, what failed is asked once more, and nothing else
    await world.fault(null, "Lantern");
    await world.forgetCalls();
    await world.bench("POST", `sets/${id}/failed-again`, {});
    const mended = await ended(world, id);
    expect(mended.answers.filter(({ replies }) => replies.at(-1)?.figures.problem)).toEqual([]);
    expect([await callsOf(world, "Lantern"), await callsOf(world, "Reedbed")]).toEqual([50, 0]);
  } finally {
    await world.stop();
  }
});

test("the order of a set changes nothing, and rows of several messages are conversations of their own", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Ordered", { prompt: "You are Quay Desk.", settings: { temperature: 1 } });
  const content = await draftOf(world, slug);
  const lanes = [
    { base: "live", content },
    { base: "live", content: { ...content, model: "reed-deep" } },
  ];
  const rows = [
    ["I'm on the 9:40 with two bicycles.", "Which boat am I on?"],
    ["Which boat am I on?"],
    ...questions.slice(0, 6),
  ];
  const asked = async (all: string[][]) => {
    const { id } = await world.bench<MessageSet>("POST", `apps/${slug}/sets`, { lanes, rows: all });
    return ended(world, id);
  };
  const [first, reversed] = [await asked(rows), await asked(rows.toReversed())];
  const turned = new Map(
    [...saidIn(reversed)].map(([at, texts]) => {
      const [row = 0, lane = 0] = at.split(" ").map(Number);
      return [`${rows.length - 1 - row} ${lane}`, texts];
    }),
  );
  expect(turned).toEqual(saidIn(first));
  expect(saidIn(first).get("0 0")?.[1]).toContain("9:40");
  expect(saidIn(first).get("1 0")?.[0]).not.toContain("9:40");
});

test("a price at most is kept while many are asked at once, and what is left is asked once it may cost more", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Dear", { model: "reed-deep" });
  const content = await draftOf(world, slug);
  const lanes = [
    { base: "live", content },
    { base: "live", content: { ...content, model: "reed-swift" } },
  ];
  const { id } = await world.bench<MessageSet>("POST", `apps/${slug}/sets`, {
    lanes,
    rows: questions,
    mostPrice: 0.01,
  });
  const set = await ended(world, id);
  expect([set.state, set.problem?.kind]).toEqual(["failed", "over-limit"]);
  expect(set.price).toBeLessThanOrEqual(0.01);
  expect(set.done).toBeGreaterThan(1);
  expect(set.canResume).toBe(true);
});

test("marks are kept, hidden names are shown with the last of them, and till then no file tells them", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Marked");
  const content = await draftOf(world, slug);
  const lanes = [
    { base: "live", content },
    { base: "live", content: { ...content, model: "reed-deep" } },
  ];
  const { id } = await world.bench<MessageSet>("POST", `apps/${slug}/sets`, {
    lanes,
    rows: [["Which boats?"], ["Hello"]],
  });
  await ended(world, id);
  await world.bench("PUT", `sets/${id}/names`, { areHidden: true });
  const file = () => fetch(`${world.address}/api/bench/sets/${id}/file?as=csv`);
  expect((await file()).status).toBe(409);
  const mark = (row: number, lane: number, given: string | null) =>
    world.bench<MessageSet>("PUT", `sets/${id}/marks`, { row, lane, mark: given });
  for (const [row, lane] of [
    [0, 0],
    [0, 1],
    [1, 0],
  ] as const)
    expect((await mark(row, lane, "good")).hidesNames).toBe(true);
  const last = await mark(1, 1, "bad");
  expect([last.hidesNames, last.seenEarly, last.marks.length]).toEqual([false, 0, 4]);
  expect((await file()).status).toBe(200);
  await expect(mark(7, 0, "good")).rejects.toThrow(/no answer to message 8/);
  await expect(world.bench("PUT", `sets/${id}/names`, { areHidden: true })).rejects.toThrow(/marked/);
  await mark(0, 0, null);
  await world.bench("PUT", `sets/${id}/names`, { areHidden: true });
  expect(await world.bench<MessageSet>("PUT", `sets/${id}/names`, { areHidden: false })).toMatchObject({
    seenEarly: 1,
  });
});

test("what visitors said is taken as rows, and a set is stopped, goes on, is deleted and restored", async ({
  world,
}) => {
  const slug = await world.makeApp("Taken");
  const content = await draftOf(world, slug);
  await world.pace("instant");
  const ask = async (message: string, conversation?: string) => {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ivo" },
      body: JSON.stringify({ message, conversation }),
    });
    return ((await response.json()) as { conversation: string }).conversation;
  };
  const talk = await ask("Which boats?");
  await ask("And on Sunday?", talk);
  const rows = (which: string) =>
    world.bench<{ rows: string[][] }>("POST", `apps/${slug}/sets-from`, { conversations: [talk], which });
  expect(await rows("first")).toEqual({ rows: [["Which boats?"]] });
  expect(await rows("all")).toEqual({ rows: [["Which boats?", "And on Sunday?"]] });

  await world.pace(20);
  const lanes = [
    { base: "live", content },
    { base: "live", content: { ...content, model: "reed-deep" } },
  ];
  const { id } = await world.bench<MessageSet>("POST", `apps/${slug}/sets`, { lanes, rows: questions.slice(0, 20) });
  const stopped = await world.bench<MessageSet>("POST", `sets/${id}/stop`, {});
  expect([stopped.state, stopped.canResume, stopped.done < stopped.of]).toEqual(["stopped", true, true]);
  await world.pace("instant");
  await world.bench("POST", `sets/${id}/resume`, {});
  expect((await ended(world, id)).answers).toHaveLength(40);
  await expect(world.bench("POST", `sets/${id}/resume`, {})).rejects.toThrow(/nothing left/);
  await world.bench("DELETE", `sets/${id}`, undefined);
  await expect(read(world, id)).rejects.toThrow(/no set/);
  await world.bench("POST", `sets/${id}/restore`, {});
  expect((await read(world, id)).answers).toHaveLength(40);
});
