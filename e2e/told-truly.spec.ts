import { buildOf, expect, test, type World } from "./fixtures";
import { Gears } from "./gears";

const story = "Tell me a long story about the ferry";

interface Line {
  price: { amount: number } | null;
  messages: { id: string; role: string; pieces: { text: string }[] }[];
}

const lineOf = (world: World, conversation: string) => world.bench<Line>("GET", `conversations/${conversation}`);

/** Says something to an app at the bench, and gives the conversation once it was answered. */
async function said(world: World, slug: string, message: string, conversation?: string): Promise<string> {
  const asked = await world.bench<{ conversation: string }>("POST", `apps/${slug}/replies`, { message, conversation });
  const count = async () => (await lineOf(world, asked.conversation)).messages.at(-1)?.pieces.length;
  await expect.poll(count).toBeGreaterThan(0);
  return asked.conversation;
}

test("the newest turn stands open and is not called left out, whatever the memory carries", async ({ page, world }) => {
  const slug = await world.makeApp("No turns", { memory: { kind: "nothing" } });
  let conversation: string | undefined;
  for (let turn = 1; turn <= 4; turn += 1) conversation = await said(world, slug, `Question ${turn}`, conversation);
  const build = buildOf(page, world);
  await build.open(slug, conversation);
  await expect(page.getByRole("article", { name: "Turns 1 to 3, folded" })).toContainText("no turns are carried");
  await world.pace(20);
  await build.say(story);
  await expect(page.getByRole("article", { name: "Turns 1 to 4, folded" })).toBeVisible();
  await expect(build.reply(5, "arriving")).toBeVisible();
  const newest = page.getByRole("article", { name: "Turn 5, visitor" });
  await expect(newest).toContainText(story);
  await expect(newest).not.toContainText(/left out|no answer/);
  await page.keyboard.press("Escape");
  await expect(build.reply(5, "stopped")).toBeVisible();
  await expect(newest).not.toContainText("left out");
});

test("a reply that was gone on with costs what both calls did, and opens both", async ({ page, world }) => {
  const slug = await world.makeApp("Both calls", { settings: { maxOutput: 40 } });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say(story);
  await expect(build.reply(1, "cut")).toBeVisible();
  const conversation = new URL(page.url()).searchParams.get("conversation") ?? "";
  const length = async () => (await lineOf(world, conversation)).messages.at(-1)?.pieces[0]?.text.length ?? 0;
  const before = await length();
  await build.reply(1).getByRole("button", { name: "continue" }).click();
  await expect.poll(length).toBeGreaterThan(before);
  await expect(build.reply(1, "cut")).toBeVisible();
  const { price } = await lineOf(world, conversation);
  const paid = `€${price?.amount.toFixed(4)}`;
  await expect(build.reply(1)).toContainText(paid);
  await expect(page.getByText(`${paid} so far`)).toBeVisible();
  await build
    .reply(1)
    .getByRole("button", { name: /^Dispatch/ })
    .click();
  await page.getByRole("combobox", { name: "Attempt" }).click();
  await expect(page.getByTitle("call 1 of 2: cut at the output limit")).toBeVisible();
});

test("a price that is not set says so before and after, and the dearest of the speakers counts", async ({
  page,
  world,
}) => {
  const id = await world.wire("Lantern");
  const fallback = { provider: "reedbed", model: "reed-deep" };
  const free = { provider: id, model: "lantern-one", settings: { maxOutput: 100 } };
  const slug = await world.makeApp("Dearest", { ...free, fallbacks: [fallback] });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.message.fill("Which boat?");
  await expect(page.getByText(/^at most €0\.00[0-9]*[1-9]/)).toBeVisible();
  const { providers } = await world.bench<{ providers: { id: string; models: Record<string, unknown>[] }[] }>(
    "GET",
    "providers",
  );
  const models = providers
    .find((each) => each.id === id)
    ?.models.map(({ calibration: _calibration, places: _places, ownSettings: _own, version: _version, ...model }) => ({
      ...model,
      price: { input: 0, output: 0, currency: "EUR", isUnset: true },
    }));
  await world.bench("PATCH", `providers/${id}`, { models });
  await page.reload();
  await expect(page.getByText("price not set")).toBeVisible();
  await build.say("Which boat?");
  await expect(build.reply(1)).toContainText("price not set");
});

test("an imported reply says so: no dispatch, and no other app's revision", async ({ page, world }) => {
  const slug = await world.makeApp("From a file");
  const made = { revision: 77, provider: "Elsewhere", model: "old-one" };
  const file = [
    { conversation: 1, role: "visitor", text: "Which boat?" },
    { conversation: 1, role: "app", text: "The 9:40.", made },
  ]
    .map((line) => JSON.stringify(line))
    .join("\n");
  const about = { name: "a.jsonl", as: "jsonl", bytes: file.length };
  const job = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, about);
  await fetch(`${world.address}/api/bench/jobs/${job.id}/parts?from=0`, { method: "PUT", body: file });
  const stateIs = (state: string) =>
    expect.poll(async () => (await world.bench<{ state: string }>("GET", `jobs/${job.id}`)).state).toBe(state);
  await stateIs("waiting");
  await world.bench("POST", `jobs/${job.id}/store`);
  await stateIs("done");
  await page.goto(`${world.address}/apps/${slug}/history`);
  await expect(page.getByRole("listitem").filter({ hasText: "Which boat?" })).toContainText("imported");
  await page.getByRole("button", { name: /Which boat/ }).click();
  await page.getByRole("button", { name: "Continue from here" }).click();
  const reply = page.getByRole("article", { name: "Turn 1, reply" });
  await expect(reply).toContainText("imported · old-one");
  await expect(reply).not.toContainText(/77|dispatch/);
});

test("Build opens on what was said at the bench, and says so where a visitor's conversation is open", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Own line");
  const own = await said(world, slug, "Said at the bench");
  const visitor = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ message: "Said by a visitor" }),
  });
  const { conversation } = (await visitor.json()) as { conversation: string };
  await page.goto(`${world.address}/apps/${slug}/build`);
  await expect(page).toHaveURL(new RegExp(own));
  await expect(page.getByText("Said at the bench")).toBeVisible();
  await buildOf(page, world).open(slug, conversation);
  await expect(page.getByText("This is a visitor's conversation")).toBeVisible();
});

test("an error in mid-stream that the profile does not name is told with its code, and leads to the profile and back", async ({
  page,
  world,
}) => {
  const gears = await Gears.start();
  try {
    const slug = await gears.makeApp(world, "Unnamed");
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say(story);
    const failed = build.reply(1, "failed");
    await expect(failed).toContainText("The provider reported an error");
    await expect(failed).toContainText("sand in the gears (code E-7)");
    await failed.getByRole("link", { name: "look at its profile" }).click();
    await expect(page.getByRole("textbox", { name: "Wire profile as JSON" })).toBeVisible();
    await page.getByRole("link", { name: "back to Unnamed" }).click();
    await expect(build.reply(1, "failed")).toBeVisible();
  } finally {
    gears.stop();
  }
});

test("a long prompt pasted over a long one is told as changed throughout, and every key after it is heard", async ({
  page,
  world,
}) => {
  const words = (word: string) => Array.from({ length: 5_000 }, (_, at) => `${word}${at}`).join(" ");
  const slug = await world.makeApp("Pasted", { prompt: words("boat") });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  const area = page.getByRole("textbox", { name: "System prompt" });
  await area.fill(words("gull"));
  await page.keyboard.press("End");
  await page.keyboard.type(" and so on");
  await expect(area).toContainText("gull4999 and so on");
  await expect(build.prompt).toContainText("changed throughout");
  await area.fill(`${words("boat")} and one more`);
  await expect(build.prompt).toContainText("changed 3 words");
});
