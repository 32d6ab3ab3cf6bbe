import { expectAccessibleInBoth } from "./axe";
import { buildOf, expect, fillValue, test, World } from "./fixtures";
import { lateScripts } from "./late-scripts";

test("with an empty data folder the first thing is to wire a provider, then to make an app, then its first reply", async ({
  page,
}) => {
  const world = await World.make();
  await world.start();
  try {
    await world.pace("instant");
    await page.goto(world.address);
    await expect(page).toHaveURL(/\/providers$/);
    await expect(page.getByText("a stand-in, runs on this machine")).toHaveCount(5);
    await page.getByRole("button", { name: "Wire Reedbed" }).click();
    await expect(page.getByRole("main")).toContainText("It answers in");
    await expect(page.getByRole("main")).toContainText("lists 3 models");
    await page.getByRole("link", { name: "Apps" }).click();
    await page.getByRole("textbox", { name: "Name of the app" }).fill("Tide Table");
    await page.keyboard.press("Enter");
    await expect(page).toHaveURL(/\/apps\/tide-table\/build/);
    const build = buildOf(page, world);
    await build.say("Hello");
    await expect(build.reply(1, "complete")).toContainText("Tide Table");
  } finally {
    await world.stop();
  }
});

test("an app is copied, renamed and deleted with its conversations", async ({ page, world }) => {
  const slug = await world.makeApp("Ropes", { prompt: "You are Ropes." });
  await page.goto(`${world.address}/apps`);
  const row = (name: string) => page.getByRole("row").filter({ has: page.getByRole("link", { name, exact: true }) });
  await row("Ropes").getByRole("button", { name: "copy" }).click();
  await page.getByRole("dialog").getByRole("textbox", { name: "Name" }).fill("Knots");
  await page.getByRole("button", { name: "Copy it" }).click();
  await expect(row("Knots")).toContainText("/api/apps/knots");
  await row("Knots").getByRole("button", { name: "rename" }).click();
  await page.getByRole("dialog").getByRole("textbox", { name: "Name" }).fill("Splices");
  await page.getByRole("button", { name: "Rename it" }).click();
  await expect(row("Splices")).toContainText("/api/apps/knots");
  const copied = await world.bench<{ draft: { prompt: string } }>("GET", "apps/knots");
  expect(copied.draft.prompt).toBe("You are Ropes.");
  await row("Splices").getByRole("button", { name: "delete" }).click();
  await page.getByRole("button", { name: "Delete it for good" }).click();
  await expect(row("Splices")).toHaveCount(0);
  const gone = await fetch(`${world.address}/api/apps/knots/replies`, { method: "POST", body: '{"message":"Hello"}' });
  expect([gone.status, await gone.json()]).toMatchObject([404, { kind: "not-found" }]);
  await world.bench("DELETE", `apps/${slug}`);
});

test("conversations are strips, latest first; one is opened, gone on with, deleted and brought back", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Strips");
  for (const message of ["First one", "Second one"])
    await fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: JSON.stringify({ message }) });
  await world.fault({ fault: "status", status: 503, calls: 1 });
  await fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: '{"message":"Third one"}' });
  await page.goto(`${world.address}/apps/${slug}/history`);
  const items = page.getByRole("main").getByRole("listitem");
  await expect(items).toHaveText([/Third one/, /Second one/, /First one/]);
  await expect(items.nth(0).getByRole("img", { name: "replies failed" })).toBeVisible();
  await items
    .nth(1)
    .getByRole("button", { name: /Second one/ })
    .click();
  await items.nth(1).getByRole("button", { name: "delete", exact: true }).click();
  await expect(items).toHaveText([/Third one/, /First one/]);
  await page.getByRole("button", { name: "undo" }).click();
  await expect(items).toHaveText([/Third one/, /Second one/, /First one/]);
  await items.nth(1).getByRole("button", { name: "Continue from here" }).click();
  const build = buildOf(page, world);
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.say("What did I say first?");
  await expect(build.reply(2, "complete")).toContainText("Second one");
  await expect(page.getByText("the visitor goes on from another one")).toBeVisible();
});

test("a provider says whether it answers, and what is wrong when it does not", async ({ page, world }) => {
  const id = await world.wire();
  await page.goto(`${world.address}/providers`);
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: /^Reedbed/ })
    .click();
  await expect(page.getByRole("main")).toContainText("It answers in");
  const address = page.getByRole("textbox", { name: "Address" });
  const alert = page.getByRole("main").getByRole("alert");
  await address.fill("not an address");
  await address.press("Enter");
  await expect(alert).toContainText("is not an http or https address");
  await expect(address).toHaveValue("not an address");
  await address.fill("http://127.0.0.1:9");
  await address.press("Enter");
  await expect(alert).toContainText("nothing listens there");
  const named = (variable: string) => ({ kind: "key", secret: { variable } });
  await world.bench("PATCH", `providers/${id}`, { address: world.standIn, credential: named("NOWHERE_KEY") });
  await page.reload();
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: /^Reedbed/ })
    .click();
  await expect(alert).toContainText("NOWHERE_KEY is not set");
  await world.bench("PATCH", `providers/${id}`, { credential: named("REEDBED_KEY") });
});

test.describe("reachability", () => {
  test("axe finds nothing in Build: a table and a failure, a dispatch, takes side by side, a summary with its ledger", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Axe in Build");
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say("When do boats go to Tansy Holm with bicycles, in a table?");
    await expect(build.reply(1, "complete")).toBeVisible();
    await world.fault({ fault: "dropped", after: 12, calls: 1 });
    await build.say("Tell me a story about the ferry");
    await expect(build.reply(2, "failed")).toBeVisible();
    await page.keyboard.press("Alt+5");
    await expectAccessibleInBoth(page, "build");

    await build
      .reply(1)
      .getByRole("button", { name: /^Dispatch/ })
      .click();
    await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("At the server");
    await expectAccessibleInBoth(page, "dispatch");
    await page.keyboard.press("Escape");
    await expect(page.getByRole("region", { name: "Dispatch" })).toHaveCount(0);

    await build.message.focus();
    await page.keyboard.press("Alt+a");
    await page.getByRole("button", { name: "side by side" }).click();
    await expect(page.getByRole("region", { name: "Side by side" })).toContainText(/\d of \d repl(?:y|ies) differs?/);
    await page.keyboard.press("Alt+g");
    await expect(page.getByText(/Says 2 messages again/)).toBeVisible();
    await expectAccessibleInBoth(page, "takes");

    await build.open(slug);
    await build.say("And the dog?");
    await expect(build.reply(1, "complete")).toBeVisible();
    await page.keyboard.press("Alt+3");
    await page.getByRole("combobox", { name: "What is carried" }).click();
    await page.getByText("a summary of what is older, and the newest", { exact: true }).click();
    await fillValue(page.getByRole("spinbutton", { name: "Turns that are carried in full" }), "1");
    await page.getByRole("button", { name: "the usual prompt" }).click();
    await build.say("And bicycles?");
    await expect(build.reply(2, "complete")).toBeVisible();
    await page
      .getByRole("article", { name: /^Summary/ })
      .getByRole("button", { name: "sum up now" })
      .click();
    await expect(page.getByRole("article", { name: /^Summary of the turns up to/ })).toBeVisible();
    await page.getByRole("button", { name: "ledger" }).click();
    await expectAccessibleInBoth(page, "memory");
  });

  test("axe finds nothing in the list of apps, nor in History: its list, and a conversation with words that were looked for", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Axe in History");
    const ask = (message: string) =>
      fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: JSON.stringify({ message }) });
    await ask("When do boats go to Tansy Holm with bicycles, in a table?");
    await world.fault({ fault: "dropped", after: 12, calls: 1 });
    await ask("Tell me a story about the ferry");
    await page.goto(`${world.address}/apps`);
    await expect(page.getByRole("link", { name: "Axe in History" })).toBeVisible();
    await expectAccessibleInBoth(page, "apps");
    await page.goto(`${world.address}/apps/${slug}/history`);
    await expect(page.getByRole("listitem").last()).toBeVisible();
    await expectAccessibleInBoth(page, "history");
    await page.goto(`${world.address}/apps/${slug}/history?words=boats`);
    await page.getByRole("button", { name: "import a file" }).click();
    await page.getByRole("listitem").last().getByRole("button").first().click();
    await expect(page.locator("mark").first()).toBeVisible();
    await expectAccessibleInBoth(page, "reading");
  });

  test("axe finds nothing on Providers: a provider, its profile as JSON, and the fitting of another", async ({
    page,
    world,
  }) => {
    await world.wire();
    await page.goto(`${world.address}/providers`);
    await expect(page.getByRole("main")).toContainText("It answers in");
    await expectAccessibleInBoth(page, "providers");
    await page.getByRole("button", { name: "edit as JSON" }).click();
    await expect(page.getByRole("textbox", { name: "Wire profile as JSON" })).toBeVisible();
    await expectAccessibleInBoth(page, "editor");
    await page.getByRole("button", { name: "Wire another" }).click();
    await page.getByRole("textbox", { name: "A command that works" }).fill('curl x.test -d \'{"m":"a-1","n":"b-2"}\'');
    await page.getByRole("textbox", { name: "Its answer" }).fill('{"out":"Aye, it runs.","why":"gloam"}');
    await expect(page.getByRole("list", { name: "What it can't know" })).toBeVisible();
    await expectAccessibleInBoth(page, "fit");
  });

  test("nothing is cut off at 1024 pixels, and motion stops where it is not wanted", async ({ page, world }) => {
    await page.setViewportSize({ width: 1024, height: 700 });
    await page.emulateMedia({ reducedMotion: "reduce" });
    const slug = await world.makeApp("Narrow");
    const build = buildOf(page, world);
    await build.open(slug);
    const views = ["build?conversation=new", "compare", "checks", "history", "serve"].map(
      (view) => `apps/${slug}/${view}`,
    );
    for (const path of [...views, "apps", "providers"]) {
      await page.goto(`${world.address}/${path}`);
      await expect(page.getByRole("main")).toBeVisible();
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
    }
  });

  test("a view whose scripts come late shows nothing that would lose what is done on it", async ({ page, world }) => {
    await world.wire();
    const scripts = await lateScripts(page);
    await page.goto(`${world.address}/apps`, { waitUntil: "commit" });
    await expect(page.getByRole("link", { name: "Providers" })).toBeVisible();
    await expect(page.getByRole("button", { name: /Theme/ })).toBeDisabled();
    await expect(page.getByRole("main")).toHaveCount(0);
    scripts.come();
    const name = page.getByRole("textbox", { name: "Name of the app" });
    await name.fill("Early");
    await expect(page.getByRole("button", { name: /Theme/ })).toBeEnabled();
    await expect(name).toHaveValue("Early");
  });

  test("the theme is changed with one click and stays", async ({ page, world }) => {
    await page.goto(`${world.address}/apps`);
    await page.getByRole("button", { name: /Theme: light/ }).click();
    await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
    await page.reload();
    await expect(page.getByRole("button", { name: /Theme: dark/ })).toBeVisible();
  });

  test("a theme that is changed holds for what is opened after it as for a page that came with it", async ({
    page,
    world,
  }) => {
    const build = buildOf(page, world);
    await build.open(await world.makeApp("Themed"));
    await build.say("When does the next boat leave?");
    await expect(build.reply(1, "complete")).toBeVisible();
    const colours = async () => {
      const row = page.getByRole("article", { name: "Turn 1, visitor" });
      await row.hover();
      await row.getByRole("button", { name: "change" }).click();
      return page
        .getByRole("textbox", { name: "Turn 1, said in another way" })
        .evaluate((box) => [getComputedStyle(box).color, getComputedStyle(box).backgroundColor]);
    };
    await page.getByRole("button", { name: /Theme: light/ }).click();
    const changed = await colours();
    await page.reload();
    await expect(page.locator("html")).toHaveAttribute("data-theme", "dark");
    expect(changed).toEqual(await colours());
  });
});
