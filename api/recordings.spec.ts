import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Run, WantedRun } from "@/contract/checks";
import type { Recording } from "@/core/recordings/recording";
import type { Content } from "@/core/revision/content";
import { TestProvider } from "@/server/test/provider";
import { expect, test, World } from "../e2e/fixtures";
import { sampleKeys } from "../e2e/world";
import { finch } from "./terminal";

const prompt = `${readFileSync("demo/quay-desk/prompt.txt", "utf8").trim()}\nIt is {{weekday}}, {{today}}, {{time}}.`;
const script = readFileSync("demo/quay-desk/quay-desk.checks", "utf8");

async function quayDesk(world: World, name: string): Promise<{ slug: string; content: Content }> {
  const slug = await world.makeApp(name, {
    prompt,
    model: "reed-deep",
    settings: { temperature: 0.7, maxOutput: 500 },
  });
  await world.bench("PUT", `apps/${slug}/checks/quay-desk`, { text: script, was: null });
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  return { slug, content: draft };
}

async function ran(world: World, slug: string, wanted: WantedRun): Promise<Run> {
  const { id } = await world.bench<Run>("POST", `apps/${slug}/runs`, wanted);
  let run = await world.bench<Run>("GET", `runs/${id}`);
  const state = async () => {
    run = await world.bench<Run>("GET", `runs/${id}`);
    return run.state;
  };
  await expect.poll(state, { timeout: 120_000 }).not.toMatch(/running|waiting/);
  return run;
}

/** How every trial of every check came out, expectation by expectation. */
const outcomes = ({ checks }: Run) =>
  checks.map(({ name, cells }) => [name, cells.map(({ trials }) => trials.map((trial) => trial.outcomes))]);

const fileOf = async (world: World, slug: string) =>
  (await fetch(`${world.address}/api/bench/apps/${slug}/recordings-file`)).text();

test("a run that was recorded comes out the same with every stand-in off, and costs nothing; an edited prompt says what has no recording and how it differs", async () => {
  test.setTimeout(300_000);
  const world = await World.make();
  await world.start();
  try {
    await world.pace("instant");
    const { slug, content } = await quayDesk(world, "Recorded");
    const columns = [
      { name: "careful", base: "live" as const, content },
      { name: "careless", base: "live" as const, content: { ...content, model: "reed-swift" } },
    ];
    await expect(ran(world, slug, { columns, answers: "recorded" })).rejects.toThrow(/Nothing is recorded/);
    const recorded = await ran(world, slug, { columns, trials: 2, records: true });
    expect([recorded.held > 0, recorded.broke > 0, recorded.silent]).toEqual([true, true, 0]);
    await world.stopStandIn();

    const played = await ran(world, slug, { columns, trials: 2, answers: "recorded" });
    expect(outcomes(played)).toEqual(outcomes(recorded));
    expect([played.silent, played.price, played.answers]).toEqual([0, 0, "recorded"]);

    const edited = { ...content, prompt: prompt.replace("Quay Desk", "Quay House") };
    const after = await ran(world, slug, {
      columns: [{ name: "careful", base: "live", content: edited }],
      answers: "recorded",
    });
    expect(after.silent).toBe(after.of);
    const problems = after.checks.flatMap(({ cells }) =>
      (cells[0]?.misses ?? []).flatMap(({ problem }) => problem ?? []),
    );
    expect(problems[0]).toMatchObject({ kind: "no-recording" });
    expect(problems[0]?.detail).toMatch(
      /The nearest is of “.+”, trial 1: \$\.body\.messages\[0\]\.content: .*Quay Desk.* became .*Quay House/s,
    );
    // what was played says nothing of how a model answers: it is no run that others are held against
    expect(await world.bench("GET", `apps/${slug}/checked`)).toMatchObject({ checked: { run: recorded.id } });
  } finally {
    await world.stop();
  }
});

test("five trials that ask the very same play back as the five that they were, and a sixth has no recording", async ({
  world,
}) => {
  const { slug, content } = await quayDesk(world, "Equal");
  const said = ["2.00", "3.00", "2.00", "2.00", "9.00"];
  const server = await saying((at) => `A bicycle costs €${said[at % said.length]}.`);
  try {
    const provider = await world.bench<{ slug: string }>("POST", "providers", {
      name: "Saying",
      address: server.address,
      profile: "chat-completions",
      credential: { kind: "none" },
      models: [{ name: "m", window: 8_000, price: { input: 1, output: 2, currency: "EUR" } }],
    });
    const columns = [
      { name: "live", base: "live" as const, content: { ...content, provider: provider.slug, model: "m" } },
    ];
    const only = ["prices a bicycle"];
    const recorded = await ran(world, slug, { columns, only, trials: 5, records: true });
    expect([recorded.held, recorded.broke]).toEqual([3, 2]);
    server.stop();
    const played = await ran(world, slug, { columns, only, trials: 5, answers: "recorded" });
    expect(outcomes(played)).toEqual(outcomes(recorded));
    const more = await ran(world, slug, { columns, only, trials: 6, answers: "recorded" });
    expect([more.held, more.broke, more.silent]).toEqual([3, 2, 1]);
    expect(JSON.stringify(more.checks)).toContain("its 5 recordings were played");
  } finally {
    server.stop();
  }
});

/** A provider that says a text by how often it was asked. */
function saying(textOf: (at: number) => string): Promise<TestProvider> {
  let asked = 0;
  return TestProvider.start((request, response) => {
    if (request.method !== "POST") return response.writeHead(404).end();
    response.writeHead(200, { "content-type": "application/json" });
    const message = { role: "assistant", content: textOf(asked) };
    asked += 1;
    response.end(JSON.stringify({ choices: [{ index: 0, message, finish_reason: "stop" }] }));
  });
}

test("the clock may say something else when it is played, and what is not recorded is called for where that is wanted", async ({
  world,
}) => {
  const { slug, content } = await quayDesk(world, "Clocks");
  const columns = [{ name: "live", base: "live" as const, content }];
  const at = (now: string, more = "") => ({
    scripts: [
      {
        name: "s",
        text: `check  a\ngiven  now is ${now}\nvisitor  What does a bicycle cost?\n    ends complete\n${more}`,
      },
    ],
  });
  await ran(world, slug, { columns, ...at("2025-06-01 09:40"), records: true });
  await world.forgetCalls();
  const later = await ran(world, slug, { columns, ...at("2026-12-24 23:05"), answers: "recorded" });
  expect([later.held, later.silent]).toEqual([1, 0]);
  expect(await world.calls()).toEqual([]);
  const more = "\ncheck  b\nvisitor  Do dogs pay?\n    ends complete\n";
  const first = await ran(world, slug, { columns, ...at("2026-12-24 23:05", more), answers: "recorded-first" });
  expect([first.held, first.silent]).toEqual([2, 0]);
  expect(await world.calls()).toHaveLength(1);
});

test("faults of a provider are played as they were, without their waits", async ({ world }) => {
  const { slug, content } = await quayDesk(world, "Faults");
  const columns = [{ name: "live", base: "live" as const, content }];
  const only = ["prices a bicycle"];
  const reedbed = await world.wire();
  const { providers } = await world.bench<{ providers: { id: string; retries: number }[] }>("GET", "providers");
  const { retries } = providers.find(({ id }) => id === reedbed) ?? {};
  await world.bench("PATCH", `providers/${reedbed}`, { retries: 2 });
  await world.fault({ fault: "dropped", after: 3, calls: 1 });
  const broken = await ran(world, slug, { columns, only, records: true });
  await world.fault({ fault: "status", status: 429, retryAfter: 1, calls: 1 });
  const waited = await ran(world, slug, { columns, only, seed: 7, trials: 1, records: true });
  expect(waited.held).toBe(1);
  const again = await ran(world, slug, { columns, only, seed: 7, answers: "recorded" });
  expect(outcomes(again)).toEqual(outcomes(waited));
  expect((again.endedAt ?? 0) - again.startedAt).toBeLessThan(1_000);
  expect(broken.held).toBe(0);
  await world.bench("PATCH", `providers/${reedbed}`, { retries });
});

test("the file holds no secret, is the same for the same recordings, and is refused by its line where it is broken", async ({
  world,
}) => {
  const { slug } = await quayDesk(world, "Filed");
  const content = async (standIn: "Reedbed" | "Saltpan" | "Tidegate" | "Bellhouse", model: string) => {
    const id = await world.wire(standIn);
    const { providers } = await world.bench<{ providers: { id: string; slug: string }[] }>("GET", "providers");
    const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
    return { ...draft, model, provider: providers.find((each) => each.id === id)?.slug ?? "" };
  };
  const columns = [
    { name: "reeds", base: "live" as const, content: await content("Reedbed", "reed-deep") },
    { name: "salt", base: "live" as const, content: await content("Saltpan", "pan-clear") },
    { name: "tide", base: "live" as const, content: await content("Tidegate", "tide-wide") },
    { name: "bells", base: "live" as const, content: await content("Bellhouse", "bell-plain") },
  ];
  const run = await ran(world, slug, { columns, only: ["prices a bicycle", "lets dogs travel free"], records: true });
  expect(run.silent).toBe(0);
  const text = await fileOf(world, slug);
  const lines = text
    .trimEnd()
    .split("\n")
    .map((line) => JSON.parse(line) as Recording);
  expect(new Set(lines.map(({ of }) => of.column))).toEqual(new Set(["reeds", "salt", "tide", "bells"]));
  for (const value of Object.values(sampleKeys)) expect(text).not.toContain(value);
  // tokens that were fetched, whatever they are, go in headers, of which none stands there
  for (const { call, answer } of lines) {
    expect(Object.keys(call).sort()).toEqual(["body", "method", "model", "path", "provider"]);
    expect(Object.keys(answer.headers)).not.toContain("set-cookie");
  }
  const kept = await world.bench<{ count: number; bytes: number }>("GET", `apps/${slug}/recordings`);
  expect(kept).toMatchObject({ count: lines.length, bytes: Buffer.byteLength(text) });

  const other = await quayDesk(world, "Filed elsewhere");
  const put = (file: string) => world.bench("PUT", `apps/${other.slug}/recordings-file`, { text: file });
  await put(text);
  expect(await fileOf(world, other.slug)).toBe(text);
  await expect(put(`${text}{"at": 1}\n`)).rejects.toThrow(new RegExp(`Line ${lines.length + 1}: at`));
  expect(await fileOf(world, other.slug)).toBe(text);
  await world.bench("DELETE", `apps/${other.slug}/recordings`);
  expect(await fileOf(world, other.slug)).toBe("");
});

test("from the terminal: recorded to a file, and checked from a bundle and that file alone, with nobody to call", async () => {
  test.setTimeout(300_000);
  const world = await World.make();
  const folder = mkdtempSync(join(tmpdir(), "finch-recorded-"));
  const [file, bundle, junit] = ["recordings.jsonl", "app.finch.json", "checks.xml"].map((name) => join(folder, name));
  try {
    await world.start();
    await world.pace("instant");
    const { slug } = await quayDesk(world, "At a terminal");
    const made = await finch(world, ["record", slug, "--to", file ?? ""]);
    expect([made.code, made.err]).toEqual([0, expect.stringContaining("What is recorded stands in")]);
    expect((await finch(world, ["export", slug, "--to", bundle ?? ""])).code).toBe(0);
    const wrong = await finch(world, ["check", slug, "--recordings", file ?? ""]);
    expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining("--played")]);
    await world.stop();

    const checked = ["check", "--app", bundle ?? "", "--on", "live", "--recordings", file ?? "", "--serve"];
    const alone = await finch(world, [...checked, "--json", "--junit", junit ?? ""]);
    expect([alone.code, JSON.parse(alone.out)]).toEqual([
      0,
      expect.objectContaining({ held: 16, broke: 0, silent: 0, price: 0 }),
    ]);
    expect(readFileSync(junit ?? "", "utf8")).toContain('failures="0"');
    const said = JSON.parse(readFileSync(bundle ?? "", "utf8"));
    said.live.prompt = said.live.prompt.map((line: string) => line.replace("Quay Desk", "Quay House"));
    writeFileSync(bundle ?? "", JSON.stringify(said));
    const edited = await finch(world, [...checked, "--only", "prices a bicycle"]);
    expect([edited.code, edited.out]).toEqual([2, expect.stringMatching(/Quay Desk.* became .*Quay House/s)]);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test("a tool that an address answers is recorded too, and not called while answers are played", async ({ world }) => {
  let asked = 0;
  const server = await TestProvider.start((_request, response) => {
    asked += 1;
    response.end(`${asked} bicycles`);
  });
  try {
    const tool = {
      name: "places_left",
      description: "How many places are left on a boat",
      parameters: { type: "object", properties: {} },
      answer: {
        by: "address" as const,
        method: "GET" as const,
        url: `${server.address}/places`,
        allowsThisMachine: true as const,
      },
    };
    const slug = await world.makeApp("Tools recorded", { model: "reed-deep", tools: [tool] });
    const text =
      'check  asks\nvisitor  How many places are left on a boat?\n    says "1 bicycles"\n    calls places_left with {}\n';
    await world.bench("PUT", `apps/${slug}/checks/quay-desk`, { text, was: null });
    const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
    const columns = [{ name: "live", base: "live" as const, content: draft }];
    const recorded = await ran(world, slug, { columns, records: true });
    expect([recorded.held, asked]).toEqual([1, 1]);
    const played = await ran(world, slug, { columns, answers: "recorded" });
    expect([played.held, asked]).toEqual([1, 1]);
  } finally {
    server.stop();
  }
});

test("a provider that is switched on for it is recorded at the bench, never for visitors, and checks that ask the same play that", async ({
  world,
}) => {
  const { slug, content } = await quayDesk(world, "Switched on");
  const reedbed = await world.wire();
  const question = "What does a bicycle cost?";
  const kept = async () => (await world.bench<{ count: number }>("GET", `apps/${slug}/recordings`)).count;
  const atBench = () => world.bench("POST", `apps/${slug}/replies`, { message: question });
  try {
    await atBench();
    expect(await kept()).toBe(0);
    await world.bench("PATCH", `providers/${reedbed}`, { records: true });
    await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({ message: question }),
    });
    expect(await kept()).toBe(0);
    await atBench();
    await expect.poll(kept).toBe(1);
  } finally {
    await world.bench("PATCH", `providers/${reedbed}`, { records: false });
  }
  const text = `check  a\nvisitor  ${question}\n    states €2.00\n`;
  const columns = [{ name: "live", base: "live" as const, content }];
  const played = await ran(world, slug, { columns, scripts: [{ name: "s", text }], answers: "recorded" });
  const { detail } = played.checks[0]?.cells[0]?.misses[0]?.problem ?? {};
  expect([played.held, detail]).toEqual([1, undefined]);
});

test("what examples/ci has checks the app of the demo with nobody to call, and its files hold no secret", () => {
  const folder = mkdtempSync(join(tmpdir(), "finch-ci-"));
  const demo = "demo/quay-desk/quay-desk";
  try {
    const env = { ...process.env };
    for (const name of Object.keys(sampleKeys)) delete env[name];
    const ran = spawnSync("sh", ["examples/ci/check.sh", "", "", folder], { env, encoding: "utf8" });
    expect([ran.status, ran.stderr]).toEqual([0, expect.stringContaining("What was recorded is played")]);
    const read = (name: string) => readFileSync(join(folder, name), "utf8");
    expect(read("checks.txt")).toMatch(/^(\d+) of \1 checks pass on live\. Played from recordings\.\n$/);
    expect(read("checks.xml")).toContain("<testsuites>");
    expect(read("checks.html")).toContain('<td class="held">held</td>');
    expect(read("checks.html")).not.toMatch(/<script|https?:\/\//);
  } finally {
    rmSync(folder, { recursive: true });
  }
  const [bundle, recordings] = [`${demo}.finch.json`, `${demo}.recordings.jsonl`].map((path) =>
    readFileSync(path, "utf8"),
  );
  for (const value of Object.values(sampleKeys))
    for (const file of [bundle, recordings]) expect(file).not.toContain(value);
  // the bundle is of the demo as it is now
  const { live, checks } = JSON.parse(bundle ?? "");
  expect(live.prompt.join("\n")).toBe(readFileSync("demo/quay-desk/prompt.txt", "utf8").trim());
  expect(JSON.stringify(checks)).toContain(JSON.stringify(script.split("\n")[3]).slice(1, -1));
});
