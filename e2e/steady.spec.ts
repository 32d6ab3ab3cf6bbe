import { buildOf, expect, test } from "./fixtures";

test("a row keeps its height when it is pointed at", async ({ page, world }) => {
  const slug = await world.makeApp("Steady");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.say("And the dogs?");
  await expect(build.reply(2, "complete")).toBeVisible();
  for (const row of [page.getByRole("article", { name: "Turn 1, visitor" }), build.reply(1, "complete")]) {
    const height = async () => (await row.boundingBox())?.height;
    await page.mouse.move(0, 0);
    const before = await height();
    await row.hover();
    await expect(row.getByRole("button").last()).toBeVisible();
    expect(await height()).toBe(before);
  }
});

test("a dispatch of many arrivals opens at its sentence, with an axis of few elements", async ({ page, world }) => {
  const slug = await world.makeApp("From its head", { settings: {} });
  const build = buildOf(page, world);
  await world.pace(400);
  await build.open(slug);
  await build.say("Write a long guide for passengers of the ferry");
  await expect(build.reply(1, "complete")).toBeVisible({ timeout: 60_000 });
  await build
    .reply(1)
    .getByRole("button", { name: /^Dispatch/ })
    .click();
  const sentence = page.getByRole("region", { name: "Dispatch" }).getByText("answered with status");
  await expect(sentence).toBeInViewport();
  // it has many arrivals, and its axis few elements
  const axis = page.getByRole("img", { name: /^At the server: [1-9],\d{3} arrivals/ });
  await expect(axis).toBeInViewport();
  expect(await axis.locator("*").count()).toBeLessThan(5);
});

test("what is copied over plain http from another machine is copied all the same, and says so", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Copied");
  // such a page has no clipboard
  await page.addInitScript(() => Object.defineProperty(navigator, "clipboard", { value: undefined }));
  const build = buildOf(page, world);
  await build.open(slug);
  await page.keyboard.press("Alt+1");
  const copy = page.getByRole("region", { name: "Visitor" }).getByRole("button", { name: "copy" });
  await copy.click();
  await expect(page.getByRole("button", { name: "copied" })).toBeFocused();
  await build.message.focus();
  await page.keyboard.press("Control+v");
  await expect(build.message).toHaveValue(/curl .*replies/);
});

test("a first visit follows the device, and what is chosen holds", async ({ browser, world }) => {
  const context = await browser.newContext({ colorScheme: "dark" });
  const page = await context.newPage();
  await page.goto(`${world.address}/apps`);
  await expect(page.getByRole("button", { name: "Theme: dark. Change to light." })).toBeEnabled();
  const look = () =>
    page.evaluate(() => [
      getComputedStyle(document.body).backgroundColor,
      getComputedStyle(document.documentElement).colorScheme,
    ]);
  expect(await look()).toEqual(["rgb(20, 25, 27)", "light dark"]);
  await page.getByRole("button", { name: /^Theme/ }).click();
  await expect.poll(look).toEqual(["rgb(233, 238, 240)", "light"]);
  await page.reload();
  await expect(page.getByRole("button", { name: "Theme: light. Change to dark." })).toBeEnabled();
  expect(await look()).toEqual(["rgb(233, 238, 240)", "light"]);
  await context.close();
});

test("that a reply has ended is told once, and no more than that", async ({ page, world }) => {
  const slug = await world.makeApp("Spoken", { settings: {} });
  const build = buildOf(page, world);
  await world.pace(60);
  await build.open(slug);
  await page.evaluate(() => {
    const told: string[] = [];
    Object.assign(window, { told });
    new MutationObserver((changes) => {
      for (const { target } of changes) {
        const region = (target.nodeType === Node.TEXT_NODE ? target.parentElement : (target as Element))?.closest(
          '[role="status"], [role="alert"], [aria-live]',
        );
        const text = region?.textContent?.trim();
        if (text) told.push(text);
      }
    }).observe(document.body, { childList: true, subtree: true, characterData: true });
  });
  await build.say("Tell me a story about the ferry in 200 words");
  await expect(build.reply(1, "complete")).toBeVisible({ timeout: 60_000 });
  await expect(page.getByText("The reply of turn 1 is complete.")).toHaveCount(1);
  expect(await page.evaluate(() => (window as unknown as { told: string[] }).told)).toEqual([
    "The reply of turn 1 is complete.",
  ]);
});

test("an app's name of sixty letters gives way in the bar at 1024 pixels, and no open station takes the sheet away", async ({
  page,
  world,
}) => {
  await page.setViewportSize({ width: 1024, height: 700 });
  const slug = await world.makeApp("The desk of Saltmarsh Ferry for passengers of all islands 24");
  const build = buildOf(page, world);
  await build.open(slug);
  const bar = page.getByRole("banner");
  for (const name of ["Build", "History", "Serve", "Apps", "Providers"]) {
    const link = bar.getByRole("link", { name, exact: true });
    await expect(link).toBeInViewport({ ratio: 1 });
    const { x = 0, width = 0 } = (await link.boundingBox()) ?? {};
    expect(x + width).toBeLessThanOrEqual(1024);
  }
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
  await page.keyboard.press("Alt+2");
  await page.getByRole("button", { name: "No fixed turn" }).click();
  for (let turn = 0; turn < 8; turn += 1) await page.getByRole("button", { name: "add a turn" }).click();
  expect((await build.sheet.boundingBox())?.height).toBeGreaterThan(150);
});
