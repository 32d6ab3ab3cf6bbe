import { buildOf, expect, test, World } from "./fixtures";

const story = "Tell me a story about the ferry";

const failures: [name: string, plan: object, kind: RegExp, advice: RegExp, station: string][] = [
  [
    "a wrong key",
    { fault: "status", status: 401, calls: 1 },
    /did not accept the key.*401/,
    /Check the value of REEDBED_KEY/,
    "Model",
  ],
  [
    "too many calls",
    { fault: "status", status: 429, retryAfter: 2, calls: 1 },
    /asks to slow down.*429/,
    /Wait as long/,
    "Model",
  ],
  ["an overloaded provider", { fault: "status", status: 503, calls: 1 }, /overloaded.*503/, /Wait a little/, "Model"],
  ["an empty reply", { fault: "empty", calls: 1 }, /reply was empty/, /Send the message again/, "Reply"],
  ["a stream that breaks off", { fault: "dropped", after: 12, calls: 1 }, /broke off/, /What arrived is kept/, "Reply"],
  [
    "broken JSON in mid-stream",
    { fault: "broken-json", after: 12, calls: 1 },
    /could not be read.*not JSON/,
    /wire profile/,
    "Reply",
  ],
];

for (const [name, plan, kind, advice, station] of failures)
  test(`${name} shows its own problem in place, with what to do, and the next message works`, async ({
    page,
    world,
  }) => {
    const build = buildOf(page, world);
    await build.open(await world.makeApp("Fails"));
    await world.fault(plan);
    // a connection that is dropped takes along what was not on its way yet
    if ("after" in plan) await world.pace(100);
    await build.say(story);
    const failed = build.reply(1, "failed");
    await expect(failed.getByRole("alert")).toContainText(kind);
    await expect(failed.getByRole("alert")).toContainText(advice);
    await expect(build.station(station)).toContainText(
      /key not accepted|asked to slow down|overloaded|empty|broken off|unreadable answer/,
    );
    if ("after" in plan) await expect(failed).toContainText("The crossing");
    else await expect(failed).toHaveAttribute("data-carried", "false");
    await build.say("When do boats go to Brindle?");
    await expect(build.reply(2, "complete")).toContainText("7:20");
    const sent = (await world.calls()).at(-1)?.messages.map(({ role }) => role);
    expect(sent).toEqual("after" in plan ? ["system", "user", "assistant", "user"] : ["system", "user"]);
  });

test("a turn that failed is asked again with one click, and no second turn begins", async ({ page, world }) => {
  const build = buildOf(page, world);
  await build.open(await world.makeApp("Again"));
  await world.fault({ fault: "status", status: 503, calls: 1 });
  await build.say("When do boats go to Brindle?");
  await build.reply(1, "failed").getByRole("button", { name: "ask again" }).click();
  await expect(build.reply(1, "complete")).toContainText("7:20");
  await expect(build.reply(2)).toHaveCount(0);
});

test("a model that the provider does not know is named, with what there is", async ({ page, world }) => {
  const slug = await world.makeApp("Unknown model");
  await world.editDraft(slug, { model: "reed-gone" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(page.getByRole("main").getByRole("alert")).toContainText(
    "Reedbed has no model reed-gone; there are reed-deep, reed-swift",
  );
  await expect(build.message).toHaveValue("Hello");
  await page.keyboard.press("Alt+5");
  await page.getByRole("combobox", { name: "Model" }).click();
  await page.getByTitle("reed-swift on Reedbed").click();
  await build.message.press("Enter");
  await expect(build.reply(1, "complete")).toBeVisible();
});

test("a stalled provider runs into the limit between events, which is named", async ({ page, world }) => {
  const provider = await world.wire();
  const usual = { connect: 5_000, first: 60_000, between: 30_000, all: 300_000 };
  await world.bench("PATCH", `providers/${provider}`, { limits: { ...usual, between: 300 } });
  try {
    const build = buildOf(page, world);
    await build.open(await world.makeApp("Stalls"));
    await world.fault({ fault: "stalled", after: 8, calls: 1 });
    await build.say(story);
    await expect(build.reply(1, "failed").getByRole("alert")).toContainText("within 0.3 s, the limit `between`");
    await world.bench("PATCH", `providers/${provider}`, { limits: { ...usual, first: 300 } });
    await world.fault({ fault: "slow-start", ms: 5_000, calls: 1 });
    await build.say(story);
    await expect(build.reply(2, "failed").getByRole("alert")).toContainText("the limit `first`");
  } finally {
    await world.bench("PATCH", `providers/${provider}`, { limits: usual });
  }
});

test("more than the context window is a problem before sending, and the words stay", async ({ page, world }) => {
  const build = buildOf(page, world);
  await build.open(await world.makeApp("Window"));
  await build.message.fill("boat ".repeat(9000));
  await expect(page.getByRole("main").getByRole("alert")).toContainText("does not fit into the context window");
  await expect(page.getByRole("main").getByRole("alert")).toContainText("too many");
  await expect(page.getByRole("button", { name: "Send" })).toBeDisabled();
});

test("a stand-in that is off, a key that is not set, and a server that is away each say what to do", async ({
  page,
}) => {
  const world = await World.make();
  await world.start();
  try {
    await world.pace("instant");
    const slug = await world.makeApp("Off");
    const build = buildOf(page, world);
    await build.open(slug);
    await world.stopStandIn();
    await build.say("Hello");
    await expect(build.reply(1, "failed").getByRole("alert")).toContainText(
      "could not be reached: nothing listens there",
    );
    await world.startStandIn();
    await world.pace("instant");
    await build.say("Hello again");
    await expect(build.reply(2, "complete")).toBeVisible();

    await world.killWeb();
    await build.say("Are you there?");
    await expect(page.getByRole("main").getByRole("alert").last()).toContainText("Unruly Finch does not answer");
    await expect(build.message).toHaveValue("Are you there?");

    await world.startWeb({ REEDBED_KEY: "" });
    await build.message.press("Enter");
    await expect(build.reply(3, "failed").getByRole("alert")).toContainText("REEDBED_KEY is not set");
    await expect(build.reply(3, "failed").getByRole("alert")).toContainText("Add the line REEDBED_KEY=");

    await world.killWeb();
    await world.startWeb({ REEDBED_KEY: "wrong" });
    await build.say("And now?");
    await expect(build.reply(4, "failed").getByRole("alert")).toContainText("did not accept the key");
  } finally {
    await world.stop();
  }
});

test("a reply that the server's end interrupted shows so, and is gone on with", async ({ page }) => {
  const world = await World.make();
  await world.start();
  try {
    const slug = await world.makeApp("Interrupted", { settings: {} });
    const build = buildOf(page, world);
    await world.pace(60);
    await build.open(slug);
    await build.say(story);
    await expect(build.reply(1, "arriving")).toContainText("The crossing");
    await world.killWeb();
    await world.pace("instant");
    await world.startWeb();
    await expect(build.reply(1, "interrupted")).toContainText("interrupted: the server stopped");
    await build.reply(1).getByRole("button", { name: "continue" }).click();
    await expect(build.reply(1, "complete")).toBeVisible();
  } finally {
    await world.stop();
  }
});
