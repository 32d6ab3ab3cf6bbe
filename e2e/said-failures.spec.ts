import { buildOf, expect, test } from "./fixtures";

const failing = (detail: string) => ({
  status: 507,
  contentType: "application/problem+json",
  body: JSON.stringify({
    type: "urn:unruly-finch:problem:no-storage",
    title: "The data folder can't be written",
    status: 507,
    kind: "no-storage",
    detail,
    advice: "Make room on the disk.",
  }),
});

test("an edit that could not be stored is said, kept when another view is looked at, and stored later", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Unstored");
  const build = buildOf(page, world);
  await build.open(slug);
  await page.route("**/draft", (route) => route.fulfill(failing("The disk is full.")));
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await page.getByRole("textbox", { name: "System prompt" }).fill("You are the night desk.");
  await page.keyboard.press("Escape");
  const alert = page.getByRole("main").getByRole("alert");
  await expect(alert).toContainText("The draft is not stored. The disk is full.");
  await page.getByRole("link", { name: "History" }).click();
  await page.getByRole("link", { name: "Build" }).click();
  await expect(build.prompt).toContainText("You are the night desk.");
  await expect(alert).toContainText("The draft is not stored");
  await page.unroute("**/draft");
  // it is tried again by itself as well, when the view is opened anew
  await expect(async () => {
    const again = page.getByRole("button", { name: "store it again" });
    if (await again.isVisible()) await again.click({ timeout: 1_000 });
    await expect(alert).toHaveCount(0, { timeout: 1_000 });
  }).toPass();
  const { draft } = await world.bench<{ draft: { prompt: string } }>("GET", `apps/${slug}`);
  expect(draft.prompt).toBe("You are the night desk.");
});

test("putting live, stopping and thinning out say so when they fail", async ({ page, world }) => {
  const slug = await world.makeApp("Failing", { settings: {} });
  const build = buildOf(page, world);
  await build.open(slug);
  const alert = page.getByRole("alert");
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await page.getByRole("textbox", { name: "System prompt" }).fill("You are the night desk.");
  await page.keyboard.press("Escape");
  await page.route("**/live", (route) => route.fulfill(failing("It could not be put live.")));
  await build.prompt.getByRole("button", { name: "make live" }).click();
  await expect(alert.filter({ hasText: "It could not be put live." })).toBeVisible();

  await world.pace(40);
  await page.route("**/stop", (route) => route.fulfill(failing("It could not be stopped.")));
  await build.say("Tell me a story about the ferry");
  await expect(build.reply(1, "arriving")).toContainText("The crossing");
  await page.getByRole("button", { name: "Stop", exact: true }).click();
  await expect(alert.filter({ hasText: "It could not be stopped." })).toBeVisible();
  await page.unroute("**/stop");
  await page.getByRole("button", { name: "Stop", exact: true }).click();

  await build
    .reply(1, "stopped")
    .getByRole("button", { name: /^Dispatch/ })
    .click();
  await page.route("**/thin", (route) => route.fulfill(failing("They could not be thinned out.")));
  await page.getByRole("button", { name: "thin out" }).click();
  const question = page.getByRole("dialog", { name: "Thin out the dispatches older than 30 days?" });
  await question.getByRole("button", { name: "Thin them out" }).click();
  await expect(question.getByRole("alert")).toContainText("They could not be thinned out.");
});

test("an app is made with a model whose name holds spaces", async ({ page, world }) => {
  const about = { address: "http://127.0.0.1:9", profile: "chat-completions", credential: { kind: "none" } };
  const model = { name: "reed one (of two)", window: 1000, price: { input: 0, output: 0, currency: "EUR" } };
  await world.bench("POST", "providers", { name: "Spaced", ...about, models: [model] });
  await page.goto(`${world.address}/apps`);
  await page.getByRole("textbox", { name: "Name of the app" }).fill("Spaced out");
  await page.getByRole("combobox", { name: "Model" }).click();
  await page.locator(".ant-select-item-option", { hasText: "reed one (of two) on Spaced" }).click();
  await page.getByRole("button", { name: "Make it" }).click();
  await expect(page).toHaveURL(/spaced-out\/build/);
  const { draft } = await world.bench<{ draft: { model: string } }>("GET", "apps/spaced-out");
  expect(draft.model).toBe("reed one (of two)");
});

test("a fault plan with a target is read back, beside what else could be planned", async ({ world }) => {
  const plan = { fault: "redirect", to: "http://127.0.0.1:9/there", calls: 2 };
  const provider = await world.wire();
  await world.fault(plan);
  expect(await world.bench("GET", `providers/${provider}/fault`)).toEqual({
    isStandIn: true,
    plan,
    faults: expect.arrayContaining([{ name: "slow-start", says: "begins late", needs: { ms: 3000 } }]),
  });
});
