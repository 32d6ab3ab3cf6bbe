import { mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { validateXML } from "xmllint-wasm";
import type { Run, RunCheck, WantedRun, WholeTrial } from "@/contract/checks";
import type { Dispatch } from "@/contract/dispatches";
import type { Content } from "@/core/revision/content";
import { expect, test, World } from "../e2e/fixtures";
import { sampleKeys } from "../e2e/world";
import { finch } from "./terminal";

const prompt = readFileSync("demo/quay-desk/prompt.txt", "utf8").trim();
const script = readFileSync("demo/quay-desk/quay-desk.checks", "utf8");

/** An app with the prompt of Quay Desk and its checks, on a careful model. */
async function quayDesk(world: World, name: string, checks = script): Promise<string> {
  const settings = { temperature: 0.7, maxOutput: 500 };
  const slug = await world.makeApp(name, { prompt, model: "reed-deep", settings });
  await write(world, slug, checks);
  return slug;
}

const write = (world: World, slug: string, text: string, was: string | null = null) =>
  world.bench<{ hash: string }>("PUT", `apps/${slug}/checks/quay-desk`, { text, was });

async function contentOf(world: World, slug: string, change: Partial<Content> = {}): Promise<Content> {
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  return { ...draft, ...change };
}

const column = (name: string, content: Content) => ({ name, base: "live" as const, content });

const begin = (world: World, slug: string, wanted: WantedRun) => world.bench<Run>("POST", `apps/${slug}/runs`, wanted);

async function whenEnded(world: World, id: string): Promise<Run> {
  let run = await world.bench<Run>("GET", `runs/${id}`);
  await expect
    .poll(
      async () => {
        run = await world.bench<Run>("GET", `runs/${id}`);
        return run.state;
      },
      { timeout: 120_000 },
    )
    .not.toMatch(/running|waiting/);
  return run;
}

const ran = async (world: World, slug: string, wanted: WantedRun) =>
  whenEnded(world, (await begin(world, slug, wanted)).id);

/** The outcomes of a check on each column, a letter a trial. */
const letters = ({ cells }: RunCheck) => cells.map(({ trials }) => trials.map(({ outcome }) => outcome[0]).join(""));

const named = (run: Run, name: string): RunCheck => {
  const found = run.checks.find((check) => check.name === name);
  if (!found) throw new Error(`There is no check ${name}.`);
  return found;
};

/** The names of the checks that broke in every trial on a column, and of those that did in some. */
function broken(run: Run, at: number) {
  const of = (test: (trials: string) => boolean) =>
    run.checks.filter((check) => test(letters(check)[at] ?? "")).map(({ name }) => name);
  return { every: of((trials) => /^b+$/.test(trials)), some: of((trials) => trials.includes("b")) };
}

test("all checks of Quay Desk hold on the careful model, and the same ones break on the careless one every time", async ({
  world,
}) => {
  const slug = await quayDesk(world, "Careful");
  const careful = await contentOf(world, slug);
  const columns = [column("live", careful), column("careless", { ...careful, model: "reed-swift" })];
  const run = await ran(world, slug, { columns, trials: 4 });
  expect(run.checks.length).toBeGreaterThanOrEqual(16);
  expect([run.state, run.silent, run.done]).toEqual(["done", 0, run.checks.length * 8]);
  expect(broken(run, 0).some).toEqual([]);
  const { every, some } = broken(run, 1);
  expect(every.length).toBeGreaterThan(0);
  expect(some).toEqual(every);
  const again = await ran(world, slug, { columns, trials: 4, seed: 5_000 });
  expect([broken(again, 0).some, broken(again, 1).some]).toEqual([[], every]);

  // the terminal, its JSON and its JUnit file say the same
  const junit = join(mkdtempSync(join(tmpdir(), "finch-junit-")), "checks.xml");
  const asked = ["check", slug, "--with", "reed-swift", "--trials", "4"];
  const table = await finch(world, [...asked, "--junit", junit]);
  expect(table.code).toBe(1);
  for (const { name } of run.checks) {
    const row = table.out.split("\n").find((line) => line.startsWith(`${name}  `)) ?? "";
    expect([name, ...row.slice(name.length).trim().split(/ {2,}/)]).toEqual([
      name,
      "held (4 of 4)",
      every.includes(name) ? "broke (0 of 4)" : "held (4 of 4)",
    ]);
  }
  const json = await finch(world, [...asked, "--json"]);
  const told = JSON.parse(json.out) as { checks: { check: string; column: string; outcome: string }[] };
  expect([json.code, told.checks.filter(({ outcome }) => outcome === "broke")]).toEqual([
    1,
    every.map((check) => expect.objectContaining({ check, column: "reed-swift", held: 0, broke: 4 })),
  ]);
  const xml = readFileSync(junit, "utf8");
  const cases = [...xml.matchAll(/<testcase name="([^"]*)" classname="([^"]*)"[^>]*?(\/?)>/g)];
  expect(cases).toHaveLength(run.checks.length * 2);
  expect(cases.filter(([, , , closed]) => closed === "").map(([, name, of]) => [name, of])).toEqual(
    every.map((name) => [name, "quay-desk.reed-swift"]),
  );
});

test("the limit taken out of the prompt is worse, with the reply and what it said too much", async ({ world }) => {
  const slug = await quayDesk(world, "Without a limit");
  const live = await contentOf(world, slug);
  const draft = { ...live, prompt: prompt.replace("Answer in at most five sentences.\n", "") };
  expect(draft.prompt).not.toBe(prompt);
  const run = await ran(world, slug, { columns: [column("live", live), column("draft", draft)], trials: 5 });
  const worse = run.checks.filter(({ cells }) => cells[1]?.standing?.kind === "worse").map(({ name }) => name);
  expect(worse).toContain("keeps it short");
  const [miss] = named(run, "keeps it short").cells[1]?.misses ?? [];
  expect(miss?.judged).toMatchObject({ outcome: "broke", saw: { length: expect.any(Number) } });
  expect(miss?.text.length).toBeGreaterThan(100);

  // making it live asks first, with the check by its name
  await world.editDraft(slug, draft);
  const put = (more: object) =>
    fetch(`${world.address}/api/bench/apps/${slug}/live`, {
      method: "PUT",
      body: JSON.stringify({ content: draft, ...more }),
    });
  const asked = await put({});
  expect([asked.status, await asked.json()]).toEqual([
    409,
    expect.objectContaining({ kind: "worse", detail: expect.stringContaining('"keeps it short"') }),
  ]);
  expect((await put({ despite: "worse" })).status).toBe(200);
});

test("what a short memory leaves out was not sent, and the turn is named", async ({ world }) => {
  const slug = await quayDesk(world, "Forgetting");
  const live = await contentOf(world, slug);
  const draft = { ...live, memory: { kind: "last-turns" as const, turns: 2 } };
  const run = await ran(world, slug, { columns: [column("live", live), column("draft", draft)], trials: 5 });
  const forgets = named(run, "remembers the boat");
  expect(forgets.cells[1]?.standing?.kind).toBe("worse");
  const misses = forgets.cells[1]?.misses ?? [];
  expect(misses.slice(0, 2).map(({ judged }) => judged)).toEqual([
    expect.objectContaining({ needed: { kind: "not-sent", need: "9:40", turn: 1, sent: expect.anything() } }),
    expect.objectContaining({ outcome: "broke", saw: expect.objectContaining({ reason: expect.any(String) }) }),
  ]);
  // and its dispatch shows the same
  const { dispatches } = await world.bench<{ dispatches: Dispatch[] }>(
    "GET",
    `makings/${misses[0]?.making}/dispatches`,
  );
  expect(dispatches[0]?.request.body).not.toContain("two bicycles");
});

/** A server of chat completions with one model that is always right, and one that is in so many tenths of the seeds. */
async function tossing(tenths: number): Promise<{ address: string; close(): Promise<void> }> {
  const server = createServer(async (request, response) => {
    let body = "";
    for await (const part of request) body += part;
    if (request.method !== "POST") return response.writeHead(404).end();
    const { model, seed } = JSON.parse(body) as { model: string; seed: number };
    const isRight = model === "sure" || (seed * 7) % 10 < tenths;
    const event = (value: unknown) => response.write(`data: ${JSON.stringify(value)}\n\n`);
    response.writeHead(200, { "content-type": "text/event-stream" });
    const content = isRight ? "A bicycle costs €2.00." : "A bicycle costs €3.00.";
    event({ model, choices: [{ index: 0, delta: { role: "assistant", content } }] });
    event({ model, choices: [{ index: 0, delta: {}, finish_reason: "stop" }] });
    event({ model, choices: [], usage: { prompt_tokens: 20, completion_tokens: 8 } });
    response.end("data: [DONE]\n\n");
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    close: () =>
      new Promise((resolve) => {
        server.close(() => resolve());
        server.closeAllConnections();
      }),
  };
}

test("a model that is right in 70 of 100 trials is perhaps worse after five, and worse after as many as were asked for", async ({
  world,
}) => {
  const server = await tossing(7);
  try {
    const price = { input: 1, output: 2, currency: "EUR" };
    const models = ["sure", "tossing"].map((name) => ({ name, window: 8_000, price, isOn: true }));
    const { slug: provider } = await world.bench<{ slug: string }>("POST", "providers", {
      name: "Tossing",
      address: server.address,
      profile: "chat-completions",
      credential: { kind: "none" },
      models,
    });
    const slug = await quayDesk(
      world,
      "Tossed",
      "check  prices\nvisitor  What does a bicycle cost?\n    states €2.00\n",
    );
    const sure = await contentOf(world, slug, { provider, model: "sure" });
    const columns = [column("live", sure), column("tossing", { ...sure, model: "tossing" })];
    const came: string[] = [];
    for (let at = 0; at < 20; at++) {
      const run = await ran(world, slug, { columns, trials: 5, seed: at * 1_037 });
      const first = run.checks[0]?.cells[1]?.standing;
      if (first?.kind !== "perhaps-worse" || first.more === null) {
        came.push(first?.kind ?? "");
        continue;
      }
      expect(first.price).toBeGreaterThan(0);
      await world.bench("POST", `runs/${run.id}/trials`, { checks: [0], trials: first.more });
      const more = await whenEnded(world, run.id);
      expect(more.checks[0]?.cells.map(({ trials }) => trials.length)).toEqual([5 + first.more, 5 + first.more]);
      came.push(`${first.kind}, then ${more.checks[0]?.cells[1]?.standing?.kind}`);
    }
    expect(came.filter((each) => each.startsWith("perhaps-worse")).length).toBeGreaterThanOrEqual(18);
    expect(came.filter((each) => each === "perhaps-worse, then worse").length).toBeGreaterThanOrEqual(18);
  } finally {
    await server.close();
  }
});

test("the JUnit file is valid, and the exit code says how it came out", async ({ world }) => {
  const slug = await quayDesk(
    world,
    'Codes & "quotes" <tags>',
    'check  a & b <c> "d"\nvisitor  What does a bicycle cost?\n    states €9.00\n\ncheck  fine\nvisitor  What does a bicycle cost?\n    states €2.00\n',
  );
  const folder = mkdtempSync(join(tmpdir(), "finch-junit-"));
  const file = (name: string) => join(folder, name);
  const valid = async (name: string) => {
    const xml = [{ fileName: name, contents: readFileSync(file(name), "utf8") }];
    const schema = [{ fileName: "junit.xsd", contents: readFileSync("api/junit.xsd", "utf8") }];
    return (await validateXML({ xml, schema })).errors.map(({ message }) => message);
  };
  const on = (...more: string[]) => finch(world, ["check", slug, "--on", "live", ...more]);

  expect((await on("--junit", file("broke.xml"))).code).toBe(1);
  expect(await valid("broke.xml")).toEqual([]);
  await world.fault({ fault: "status", status: 500 });
  expect((await on("--only", "fine", "--junit", file("silent.xml"))).code).toBe(2);
  expect(await valid("silent.xml")).toEqual([]);
  expect(readFileSync(file("silent.xml"), "utf8")).toContain("<skipped ");
  await world.fault(null);

  const bad = file("bad.checks");
  writeFileSync(bad, "check  a\nvisitor  b\n    states\n");
  const unread = await on("--file", bad);
  expect([unread.code, unread.err]).toEqual([2, expect.stringContaining("bad, line 3")]);
  expect((await on("--only", "no such check")).code).toBe(2);
  expect((await finch(world, ["check", slug], { env: { FINCH_ADDRESS: "http://127.0.0.1:1" } })).code).toBe(2);

  await world.pace(5);
  const { runs: before } = await world.bench<{ runs: Run[] }>("GET", `apps/${slug}/runs`);
  const stopped = await finch(world, ["check", slug, "--json"], {
    onStart: async (child) => {
      const runs = async () => (await world.bench<{ runs: Run[] }>("GET", `apps/${slug}/runs`)).runs.length;
      await expect.poll(runs).toBeGreaterThan(before.length);
      child.kill("SIGINT");
    },
  });
  expect([stopped.code, JSON.parse(stopped.out).held]).toEqual([130, 0]);
  rmSync(folder, { recursive: true });
});

test("a script that can't be read is named by line and reason, and nothing of it is run", async ({ world }) => {
  const slug = await quayDesk(world, "Unread");
  const columns = [column("live", await contentOf(world, slug))];
  const fine = "check  fine\nvisitor  Hello\n    ends complete\n";
  const before = (await world.calls()).length;
  const bad: [string, RegExp][] = [
    [`${fine}\ncheck  bad\nvisitor  b\n    states`, /line 7: /],
    [`${fine}\ncheck  fine\nvisitor  b`, /line 5: .*"fine" already/],
    [`${fine}\ncheck  bad\nvisitor  b\n    fits {"type": "ship"}`, /line 7: this is no JSON Schema/],
    [`${fine}\ncheck  bad\nvisitor  b\n    fits {"$ref": "#/nowhere"}`, /line 7: this is no JSON Schema/],
    [`${fine}\ncheck  bad\nvisitor  b\n    matches /(/`, /line 7: the pattern can't be read/],
    [`${fine}\ncheck  bad\nafter  3 turns from nowhere\nvisitor  b`, /line 6: there are no turns nowhere/],
    [`${fine}\ncheck  bad\nafter  all turns from conversation cnv_none\nvisitor  b`, /line 6: there are no turns/],
    [`${fine}\nvisitors  b`, /line 5: "visitors" begins no line/],
  ];
  for (const [text, says] of bad) {
    const response = await fetch(`${world.address}/api/bench/apps/${slug}/runs`, {
      method: "POST",
      body: JSON.stringify({ columns, scripts: [{ name: "bad", text }] }),
    });
    expect([response.status, await response.json()]).toEqual([
      400,
      expect.objectContaining({ detail: expect.stringMatching(says) }),
    ]);
  }
  expect((await world.calls()).length).toBe(before);
  expect(await world.bench("GET", `apps/${slug}/runs`)).toEqual({ runs: [], hasMore: false });
});

test("a pattern that runs away is silent, and holds nothing else up", async ({ world }) => {
  const slug = await quayDesk(
    world,
    "Run away",
    "check  runs away\nvisitor  Tell me about all sailings.\n    matches /^(?:[a-z .,]+)+\\d{9}$/i\n    ends complete\n",
  );
  const run = await ran(world, slug, { columns: [column("live", await contentOf(world, slug))] });
  const [miss, ...more] = run.checks[0]?.cells[0]?.misses ?? [];
  expect([miss?.judged, more]).toEqual([
    { line: 3, outcome: "silent", saw: expect.objectContaining({ ranAway: true }) },
    [],
  ]);
  expect([run.broke, run.silent]).toEqual([0, 1]);
});

test("a run is stopped, killed and gone on with, and what had ended is not asked again", async () => {
  const world = await World.make();
  try {
    await world.start();
    const names = Array.from({ length: 5 }, (_, at) => `check  number ${at}\nvisitor  Question ${at}: hello?\n`);
    const slug = await quayDesk(world, "Gone on with", names.join("\n"));
    await world.bench("PATCH", `providers/${await world.wire()}`, { atOnce: 3 });
    await world.pace(20);
    const columns = [column("live", await contentOf(world, slug))];
    const asked = async () =>
      (await world.calls()).flatMap(({ messages }) => messages.at(-1)?.content.match(/^Question \d/)?.[0] ?? []);
    const { id, of } = await begin(world, slug, { columns, trials: 2 });
    expect(of).toBe(10);
    const done = async () => (await world.bench<Run>("GET", `runs/${id}`)).done;
    await expect.poll(done).toBeGreaterThan(1);
    const stopped = await world.bench<Run>("POST", `runs/${id}/stop`);
    expect(stopped).toMatchObject({ state: "stopped", canResume: true });
    const ended = (await whenEnded(world, id)).done;
    expect(ended).toBeLessThan(10);
    const begunBefore = (await asked()).length;

    await world.bench("POST", `runs/${id}/resume`);
    await expect.poll(done).toBeGreaterThan(ended);
    await world.killWeb();
    const begunByThen = (await asked()).length;
    await world.pace("instant");
    await world.startWeb();
    const run = await whenEnded(world, id);
    expect([run.state, run.done, run.held]).toEqual(["done", 10, 10]);
    expect(run.checks.map(letters)).toEqual(Array(5).fill(["hh"]));
    // what the stop and the kill cut off, two calls each at most, was asked once more, and nothing else
    const all = (await asked()).length;
    expect(begunBefore - ended).toBeLessThanOrEqual(2);
    expect(all).toBeLessThanOrEqual(10 + 4);
    expect(begunByThen).toBeLessThan(all);
  } finally {
    await world.stop();
  }
});

test("scripts are read from a folder as they stand there, and what is written goes to its file", async ({ world }) => {
  const slug = await quayDesk(world, "In a folder", "check  one\nvisitor  Hello\n    ends complete\n");
  const folder = join(mkdtempSync(join(tmpdir(), "finch-checks-")), "checks");
  const scripts = () =>
    world.bench<{ scripts: { name: string; text: string; hash: string }[]; problem: { detail: string } | null }>(
      "GET",
      `apps/${slug}/checks`,
    );
  await world.bench("PUT", `apps/${slug}/checks-folder`, { folder });
  expect(readFileSync(join(folder, "quay-desk.checks"), "utf8")).toContain("check  one");

  writeFileSync(join(folder, "more.checks"), "check  two\nvisitor  What does a bicycle cost?\n    states €2.00\n");
  const columns = [column("live", await contentOf(world, slug))];
  const run = await ran(world, slug, { columns });
  expect(run.checks.map(({ script, name }) => [script, name])).toEqual([
    ["more", "two"],
    ["quay-desk", "one"],
  ]);

  const [, read] = (await scripts()).scripts;
  writeFileSync(join(folder, "quay-desk.checks"), "check  changed\nvisitor  Hello\n");
  await expect(write(world, slug, "check  mine\nvisitor  Hello\n", read?.hash)).rejects.toThrow(/changed meanwhile/);
  const [, now] = (await scripts()).scripts;
  await write(world, slug, "check  mine\nvisitor  Hello\n", now?.hash);
  expect(readFileSync(join(folder, "quay-desk.checks"), "utf8")).toBe("check  mine\nvisitor  Hello\n");

  renameSync(folder, `${folder}-away`);
  expect(await scripts()).toMatchObject({ scripts: [], problem: { detail: expect.stringMatching(/is not there/) } });
  await expect(begin(world, slug, { columns })).rejects.toThrow(/is not there/);
  renameSync(`${folder}-away`, folder);
  await world.bench("PUT", `apps/${slug}/checks-folder`, { folder: null });
  rmSync(folder, { recursive: true });
  expect((await scripts()).scripts.map(({ name }) => name)).toEqual(["more", "quay-desk"]);
});

test("an app goes through a file and back with the same bytes, and is checked from the file alone", async ({
  world,
}) => {
  const slug = await quayDesk(world, "In a file");
  await world.editDraft(slug, {
    model: "pan-clear",
    provider: (await providerOf(world, "Saltpan")).slug,
    fallbacks: [{ provider: (await providerOf(world, "Reedbed")).slug, model: "reed-swift" }],
  });
  const folder = mkdtempSync(join(tmpdir(), "finch-bundle-"));
  const file = join(folder, "quay-desk.finch.json");
  expect((await finch(world, ["export", slug, "--to", file])).code).toBe(0);
  const text = readFileSync(file, "utf8");
  for (const key of Object.values(sampleKeys)) expect(text).not.toContain(key);

  const made = await finch(world, ["import", file]);
  expect([made.code, made.out]).toEqual([0, "in-a-file-2\n"]);
  expect((await finch(world, ["export", "in-a-file-2"])).out).toBe(text);

  const checked = ["check", "--app", file, "--on", "live", "--json"];
  const alone = await finch(world, checked, { env: { ...(sampleKeys as Record<string, string>) } });
  expect([alone.code, JSON.parse(alone.out)]).toEqual([0, expect.objectContaining({ broke: 0, silent: 0, held: 16 })]);

  const apps = async () => (await world.bench<{ apps: { slug: string }[] }>("GET", "apps")).apps.length;
  const before = await apps();
  const wrong: [string, RegExp][] = [
    [text.slice(0, 400), /no JSON/],
    [text.replace('"bundle": 1', '"bundle": 7'), /version 7/],
    [text.replace('"temperature": 0.7', '"temperature": 70'), /temperature/],
    [text.replace('"provider": "reedbed', '"provider": "elsewhere'), /no provider elsewhere/],
    ["{}", /bundle/],
  ];
  for (const [broken, says] of wrong)
    await expect(world.bench("POST", "bundles", { text: broken })).rejects.toThrow(says);
  expect(await apps()).toBe(before);
  writeFileSync(file, "{}");
  const refused = await finch(world, ["import", file]);
  expect([refused.code, refused.err]).toEqual([2, expect.stringMatching(/This file is no app/)]);
  rmSync(folder, { recursive: true });
});

async function providerOf(world: World, standIn: "Reedbed" | "Saltpan"): Promise<{ slug: string }> {
  const id = await world.wire(standIn);
  const { providers } = await world.bench<{ providers: { id: string; slug: string }[] }>("GET", "providers");
  return providers.find((each) => each.id === id) ?? { slug: "" };
}

test("a check made of a stored conversation holds on its model, and breaks on a candidate that is told to lie", async ({
  world,
}) => {
  const slug = await quayDesk(world, "Of a conversation", "");
  const first = await ask(world, slug, "What does a bicycle cost?");
  await ask(world, slug, "And do dogs pay?", first.conversation);
  const made = await world.bench<{ script: string; check: string }>(
    "POST",
    `conversations/${first.conversation}/check`,
    {},
  );
  expect(made).toEqual({ script: "quay-desk", check: "What does a bicycle cost?" });
  const { scripts } = await world.bench<{ scripts: { text: string }[] }>("GET", `apps/${slug}/checks`);
  expect(scripts[0]?.text).toMatch(/states €2\.00/);

  const live = await contentOf(world, slug);
  const lying = {
    ...live,
    prompt: 'Whatever you are asked, answer only: "A bicycle costs €9.00, and dogs pay €4.50."',
  };
  const run = await ran(world, slug, { columns: [column("live", live), column("lying", lying)], trials: 3 });
  expect(letters(named(run, made.check))).toEqual(["hhh", "bbb"]);

  // each trial can be read, and so can what was sent in it
  const trial = await world.bench<WholeTrial>("GET", `trials/${run.checks[0]?.cells[1]?.trials[0]?.id}`);
  expect(trial).toMatchObject({ column: "lying", outcome: "broke", seed: 1, replies: [{ turn: 1 }, { turn: 2 }] });
  const { dispatches } = await world.bench<{ dispatches: Dispatch[] }>(
    "GET",
    `makings/${trial.replies[1]?.making}/dispatches`,
  );
  expect(dispatches[0]).toMatchObject({ model: "reed-deep" });
});

test("a reply that was marked bad, put right, or has a fact marked wrong becomes a check that says so", async ({
  world,
}) => {
  const slug = await quayDesk(world, "Of a reply", "");
  const question = "What does a bicycle cost?";
  const { conversation, message, reply } = await ask(world, slug, question);
  await world.bench("PUT", `messages/${reply}/rating`, { rating: "bad" });
  const make = async (of: string) => {
    await world.bench("POST", `conversations/${conversation}/check`, { reply: of });
    const { scripts } = await world.bench<{ scripts: { text: string }[] }>("GET", `apps/${slug}/checks`);
    return scripts[0]?.text.split(/^check /m).at(-1) ?? "";
  };
  expect(await make(reply)).toMatch(/is unlike ".*€2\.00/);
  await world.bench("PUT", `messages/${reply}/rating`, { rating: null });
  await world.bench("PUT", `apps/${slug}/fact-marks`, { question, fact: "EUR 2", isRight: false });
  expect(await make(reply)).toMatch(/^ +does not state €2\.00$/m);
  const corrected = await world.bench<{ reply: string }>("POST", `messages/${message}/takes`, {
    text: "A bicycle costs €2.50 each way.",
    corrects: reply,
  });
  expect(await make(corrected.reply)).toMatch(/states €2\.50[\s\S]*is like "A bicycle costs €2\.50 each way\."/);
});

async function ask(world: World, slug: string, message: string, conversation?: string) {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ message, conversation }),
  });
  return (await response.json()) as { reply: string; conversation: string; message: string };
}

test("limits and failures of a provider are silent, and a wrong answer beside them still breaks", async ({ world }) => {
  const slug = await quayDesk(
    world,
    "Silent",
    "check  a\nvisitor  What does a bicycle cost?\n    states €2.00\nvisitor  And what do two bicycles cost?\n    states €4.00\n\ncheck  expects it\nvisitor  Hello\n    ends overloaded\n",
  );
  const columns = [column("live", await contentOf(world, slug))];
  await world.fault({ fault: "status", status: 503 });
  const run = await ran(world, slug, { columns });
  expect(run.checks.map(letters)).toEqual([["s"], ["h"]]);
  expect([run.held, run.broke, run.silent]).toEqual([1, 0, 1]);
  const trial = await world.bench<WholeTrial>("GET", `trials/${run.checks[0]?.cells[0]?.trials[0]?.id}`);
  // what came after it was not asked any more
  expect(trial.replies.map(({ figures }) => figures.outcome)).toEqual(["overloaded", "not-asked"]);
  await world.fault(null);

  // what is not changed can be left out, and what was silent is not that
  const again = await ran(world, slug, { columns, leavesOutUnchanged: true });
  expect(again.checks[0]?.cells[0]?.trials.map(({ outcome, isTaken }) => [outcome, isTaken])).toEqual([
    ["held", false],
  ]);
  const before = (await world.calls()).length;
  const third = await ran(world, slug, { columns, leavesOutUnchanged: true, only: ["a"] });
  expect(third.checks[0]?.cells[0]?.trials.map(({ outcome, isTaken }) => [outcome, isTaken])).toEqual([["held", true]]);
  expect((await world.calls()).length).toBe(before);
});
