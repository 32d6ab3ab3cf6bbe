import type { Page } from "@playwright/test";
import type { Comparison } from "@/contract/comparisons";
import { expectAccessibleInBoth } from "./axe";
import { buildOf, expect, fillValue, test, type World } from "./fixtures";

/** Compare, as the tests work with it. */
function compareOf(page: Page, world: World) {
  const message = page.getByRole("textbox", { name: "Message to all lanes" });
  return {
    open: async (slug: string, query = "") => {
      await page.goto(`${world.address}/apps/${slug}/compare${query}`);
      await expect(message).toBeFocused();
    },
    message,
    ask: async (text: string) => {
      await message.fill(text);
      await page.keyboard.press("Enter");
    },
    lane: (turn: number, name: string, state = "") =>
      page.getByRole("article", { name: new RegExp(`^Turn ${turn}, ${name}, ${state}`) }),
    facts: (turn: number) => page.getByRole("table", { name: `Facts of turn ${turn}` }),
    sentence: page.getByRole("main").locator("p").first(),
  };
}

const question = "Which boats to Tansy Holm take bicycles on Sunday?";

test("a draft is held against the live revision by the message that a visitor sent last, and nothing is sent before", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Did it hurt", { settings: {} });
  const call = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    body: JSON.stringify({ message: question }),
  });
  expect(call.ok).toBe(true);
  await world.editDraft(slug, {
    prompt: 'Answer only questions about dogs. To anything else say: "That lies beyond the quay."',
  });
  const before = (await world.calls()).length;
  const compare = compareOf(page, world);
  await compare.open(slug);
  await expect(compare.sentence).toHaveText(/Asks the live revision and the draft the same question, from the start/);
  await expect(compare.message).toHaveValue(question);
  await expect(page.getByText(/at most €[\d.]+ for both|from €[\d.]+ for both/)).toBeVisible();
  expect((await world.calls()).length).toBe(before);

  await page.getByRole("button", { name: "Ask both" }).click();
  await expect(compare.lane(1, "live", "complete")).toContainText("8:10");
  await expect(compare.lane(1, "draft", "complete")).toContainText("beyond the quay");
  await expect(page).toHaveURL(/comparison=cmp_/);
  const row = compare.facts(1).getByRole("row").filter({ hasText: "8:10" }).first();
  await expect(row).toContainText("only here");
  await row.getByRole("button", { name: /^live states 8:10/ }).click();
  await expect(compare.lane(1, "live").locator("mark")).toHaveText(["8:10"]);
  await expect(compare.lane(1, "draft").locator("mark")).toHaveCount(0);

  // what the words differ in, and what the candidates do
  const shows = page.getByRole("combobox", { name: "What is shown over the lanes" });
  await shows.click();
  await page.getByText("the words against live", { exact: true }).click();
  await expect(compare.lane(1, "draft").locator("ins").first()).toBeVisible();
  await shows.click();
  await page.getByText("what differs between the candidates", { exact: true }).click();
  await expect(page.getByText("Prompt of draft, against live")).toBeVisible();

  await compare.ask("And on weekdays?");
  await expect(compare.lane(2, "live", "complete")).toBeVisible();
  await page.reload();
  await expect(compare.lane(1, "live", "complete")).toContainText("8:10");
  await expect(compare.lane(2, "draft", "complete")).toBeVisible();
});

test("one of them is used: its content is the draft, and the next message in Build comes from it", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Use this one");
  await world.wire("Saltpan");
  const compare = compareOf(page, world);
  await compare.open(slug);
  await page.getByRole("button", { name: "one more" }).click();
  await page.getByRole("combobox", { name: "Model", exact: true }).click();
  await page.getByTitle("pan-clear on Saltpan").click();
  await fillValue(page.getByRole("spinbutton", { name: "Temperature" }), "0.2");
  await expect(compare.sentence).toContainText("pan-clear at temperature 0.2");
  await page.keyboard.press("Escape");
  await compare.ask("I'm Ivo. Hello");
  const lane = compare.lane(1, "pan-clear", "complete");
  await expect(lane).toContainText("Ivo");
  await lane.getByRole("button", { name: "use this one" }).click();
  await expect(page).toHaveURL(/\/build/);
  const { draft } = await world.bench<{ draft: { model: string; settings: object } }>("GET", `apps/${slug}`);
  expect(draft).toMatchObject({ model: "pan-clear", settings: { temperature: 0.2 } });
  const build = buildOf(page, world);
  await expect(build.message).toBeFocused();
  await build.say("Hello again");
  await expect(build.reply(1, "complete")).toContainText("pan-clear");

  // or its line is gone on with
  await page.getByRole("link", { name: "Compare", exact: true }).click();
  await page.getByRole("button", { name: "1 saved comparison" }).click();
  await page.getByRole("link", { name: /I'm Ivo/ }).click();
  await compare.lane(1, "pan-clear", "complete").getByRole("button", { name: "go on in Build" }).click();
  await expect(build.reply(1, "complete")).toContainText("Ivo");
  await build.say("What is my name?");
  await expect(build.reply(2, "complete")).toContainText("Ivo");
});

test("lanes stream on one time axis, are stopped one by one or all at once, and are the same after a reload", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Streams", { settings: {} });
  const compare = compareOf(page, world);
  await world.pace(25);
  await compare.open(slug);
  await compare.ask("Tell me a story about the ferry");
  const [live, other] = [compare.lane(1, "live", "arriving"), compare.lane(1, "reed-deep", "arriving")];
  await expect(live).toBeVisible();
  await expect(other).toBeVisible();
  const arrivals = (lane: typeof live) => lane.getByRole("img", { name: /text came from/ });
  await expect(arrivals(live)).toBeVisible();
  await page.reload();
  await expect(live).toBeVisible();
  await expect(arrivals(live)).toBeVisible();
  await live.getByRole("button", { name: "stop" }).click();
  await expect(compare.lane(1, "live", "stopped")).toBeVisible();
  await expect(other).toBeVisible();
  await page.getByRole("button", { name: "Stop all" }).click();
  await expect(compare.lane(1, "reed-deep", "stopped")).toBeVisible();
  await expect(page.getByRole("button", { name: "Stop all" })).toHaveCount(0);
  await world.pace("instant");
  await compare.ask("Hello");
  await expect(compare.lane(2, "live", "complete")).toBeVisible();
});

test("a conversation is gone on with in several lanes, from any message of it", async ({ page, world }) => {
  const slug = await world.makeApp("From here");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("I'm Ivo");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.say("What is my name?");
  await expect(build.reply(2, "complete")).toContainText("Ivo");
  const row = page.getByRole("article", { name: "Turn 2, visitor" });
  await row.hover();
  await row.getByRole("link", { name: "compare" }).click();
  const compare = compareOf(page, world);
  await expect(compare.message).toHaveValue("What is my name?");
  await expect(compare.sentence).toContainText("after turn 1 of “I'm Ivo”");
  await compare.message.press("Enter");
  await expect(compare.lane(1, "live", "complete")).toContainText("Ivo");
  await expect(compare.lane(1, "reed-deep", "complete")).toContainText("Ivo");
  await expect(compare.sentence).toContainText("after 1 turn of a conversation");
});

test("all of it goes by keyboard: candidates, asking, facts and their marks, leaving out and undoing that", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("By key");
  const compare = compareOf(page, world);
  await compare.open(slug);
  await page.keyboard.press("Alt+2");
  await expect(page.getByRole("region", { name: "reed-deep" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("region", { name: "reed-deep" })).toHaveCount(0);
  await compare.message.focus();
  await page.keyboard.type("What does a bicycle cost on the 9:40?");
  await page.keyboard.press("Enter");
  await expect(compare.lane(1, "live", "complete")).toBeVisible();
  await expect(compare.message).toBeFocused();

  // another prompt states something else
  const { id } =
    (await world.bench<{ comparisons: Comparison[] }>("GET", `apps/${slug}/comparisons`)).comparisons[0] ?? {};
  const { lanes } = await world.bench<Comparison>("GET", `comparisons/${id}`);
  const content = { ...lanes[0]?.content, prompt: 'End every reply with "Be there at 7:15."' };
  await world.bench("POST", `comparisons/${id}/lanes`, { base: "draft", content });
  const third = compare.lane(1, "draft", "complete");
  await expect(third).toContainText("7:15");
  const row = compare.facts(1).getByRole("row").filter({ hasText: "7:15" });
  await row.getByRole("button", { name: "7:15 is right" }).focus();
  await page.keyboard.press("w");
  await expect(row.getByRole("button", { name: "7:15 is wrong" })).toHaveAttribute("aria-pressed", "true");
  await page.keyboard.press("w");
  await expect(row.getByRole("button", { name: "7:15 is wrong" })).toHaveAttribute("aria-pressed", "false");
  await page.keyboard.press("r");
  await expect(row.getByRole("button", { name: "7:15 is right" })).toHaveAttribute("aria-pressed", "true");

  await third.getByRole("button", { name: "leave out" }).focus();
  await page.keyboard.press("Enter");
  await expect(third).toHaveCount(0);
  await page.getByRole("button", { name: "undo" }).focus();
  await page.keyboard.press("Enter");
  await expect(third).toBeVisible();

  await third.getByRole("button", { name: "dispatch" }).focus();
  await page.keyboard.press("Enter");
  const dispatch = page.getByRole("region", { name: "Dispatch" });
  await expect(dispatch).toContainText("At the server");
  await page.keyboard.press("Escape");
  await expect(dispatch).toHaveCount(0);
  await expect(third.getByRole("button", { name: "dispatch" })).toBeFocused();
  await page.keyboard.press("Alt+n");
  await expect(page).toHaveURL(/\/compare$/);
});

test("a lane that fails leaves the others alone, and a candidate is put in the place of another", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Alone");
  const saltpan = await world.wire("Saltpan");
  const compare = compareOf(page, world);
  await compare.open(slug);
  await page.getByRole("button", { name: "one more" }).click();
  await page.getByRole("combobox", { name: "Model", exact: true }).click();
  await page.getByTitle("pan-brief on Saltpan").click();
  await page.keyboard.press("Escape");
  await world.fault({ fault: "status", status: 503, calls: 9 }, "Saltpan");
  await compare.ask("Hello");
  const failed = compare.lane(1, "pan-brief", "failed");
  await expect(failed.getByRole("alert")).toContainText("overloaded");
  await expect(compare.lane(1, "live", "complete")).toBeVisible();
  await world.fault(null, "Saltpan");
  await failed.getByRole("button", { name: "change" }).click();
  await page.getByRole("combobox", { name: "Model", exact: true }).click();
  await page.getByTitle("pan-clear on Saltpan").click();
  await page.getByRole("button", { name: "Ask this one instead" }).click();
  await expect(compare.lane(1, "pan-clear", "complete")).toBeVisible();
  await expect(failed).toHaveCount(0);
  expect(saltpan).toBeTruthy();

  await page.getByRole("button", { name: "1 saved comparison" }).click();
  const saved = page.getByRole("region", { name: "Saved comparisons" });
  await fillValue(saved.getByRole("textbox", { name: /^Name of/ }), "hellos");
  await expect(page.getByRole("textbox", { name: "Name of this comparison" })).toHaveValue("hellos");
  await saved.getByRole("button", { name: "copy" }).click();
  await expect(saved.getByRole("row")).toHaveCount(3);
  await saved.getByRole("button", { name: "delete" }).first().click();
  await expect(saved.getByRole("row")).toHaveCount(2);
  await saved.getByRole("button", { name: "undo" }).click();
  await expect(saved.getByRole("row")).toHaveCount(3);
});

test("six lanes are read at 1024 pixels, and axe finds nothing in both themes", async ({ page, world }) => {
  const slug = await world.makeApp("Six");
  const { draft } = await world.bench<{ draft: { settings: object } }>("GET", `apps/${slug}`);
  const lanes = [0.1, 0.2, 0.3, 0.4, 0.5].map((temperature) => ({
    base: "live",
    content: { ...draft, settings: { ...draft.settings, temperature } },
  }));
  const other = { base: "live", content: { ...draft, prompt: 'End every reply with "Be there at 7:15."' } };
  await world.fault({ fault: "dropped", after: 9, calls: 1 });
  const { id } = await world.bench<Comparison>("POST", `apps/${slug}/comparisons`, {
    lanes: [...lanes, other],
    message: question,
  });
  await page.setViewportSize({ width: 1024, height: 700 });
  const compare = compareOf(page, world);
  await compare.open(slug, `?comparison=${id}`);
  await expect(compare.facts(1)).toBeVisible();
  await expect(page.getByRole("article").last()).toContainText("7:15");
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
  for (const shows of ["facts", "editor", "list"]) {
    if (shows === "editor") await page.keyboard.press("Alt+6");
    if (shows === "list") await page.getByRole("button", { name: "1 saved comparison" }).click();
    await expectAccessibleInBoth(page, shows);
  }
});
