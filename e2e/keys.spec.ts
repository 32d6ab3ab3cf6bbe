import { buildOf, expect, fillValue, test } from "./fixtures";

const story = "Tell me a story about the ferry in 1500 words";

test("the list of keys opens with a real Shift in every view, and Escape closes it alone", async ({ page, world }) => {
  const slug = await world.makeApp("Listed keys", { settings: {} });
  const build = buildOf(page, world);
  const list = page.getByRole("dialog", { name: "Keys" });
  for (const path of ["apps", "providers", `apps/${slug}/history`, `apps/${slug}/serve`]) {
    await page.goto(`${world.address}/${path}`);
    await expect(page.getByRole("main")).toBeVisible();
    await page.keyboard.press("Shift+Slash");
    await expect(list).toContainText("Alt + 1 to Alt + 6");
    await page.keyboard.press("Escape");
    await expect(list).toBeHidden();
  }
  await world.pace(40);
  await build.open(slug);
  await build.say(story);
  await expect(build.reply(1, "arriving")).toContainText("The crossing");
  // where one writes, it is written
  await page.keyboard.press("Shift+Slash");
  await expect(build.message).toHaveValue("?");
  await build.message.fill("");
  await build.station("Model").focus();
  await page.keyboard.press("Shift+Slash");
  await expect(list).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(list).toBeHidden();
  await expect(build.reply(1, "arriving")).toBeVisible();
  await build.message.focus();
  await page.keyboard.press("Escape");
  await expect(build.reply(1, "stopped")).toBeVisible();
});

test("Escape closes what the focus is in and gives it back, while a reply goes on arriving", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Nearest", { settings: {} });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  await world.pace(25);
  await build.say(story);
  await expect(build.reply(2, "arriving")).toContainText("The crossing");
  const arrives = () => expect(build.reply(2, "arriving")).toBeVisible();

  // what is typed in a value, then the station that it stands in
  await page.keyboard.press("Alt+5");
  const model = page.getByRole("region", { name: "Model" });
  const temperature = model.getByRole("spinbutton", { name: "Temperature" });
  await temperature.fill("1.7");
  await page.keyboard.press("Escape");
  await expect(temperature).not.toHaveValue("1.7");
  await expect(model).toBeVisible();
  await arrives();
  // a list that is open in it
  await model.getByRole("combobox", { name: "Model", exact: true }).click();
  await expect(page.getByRole("option").first()).toBeAttached();
  await page.keyboard.press("Escape");
  await expect(model).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(model).toBeHidden();
  await arrives();
  await expect(page.locator("body")).not.toBeFocused();

  // an editor in a row
  const first = page.getByRole("article", { name: "Turn 1, visitor" });
  await first.hover();
  await first.getByRole("button", { name: "change" }).click();
  await page.keyboard.type(" there");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("textbox", { name: "Turn 1, said in another way" })).toBeHidden();
  await expect(first.getByRole("button", { name: "change" })).toBeFocused();
  await arrives();

  // the prompt
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await expect(page.getByRole("textbox", { name: "System prompt" })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(build.prompt.getByRole("button", { name: "Edit the system prompt" })).toBeFocused();
  await arrives();

  // a dispatch under its reply
  const dispatch = build.reply(1).getByRole("button", { name: /^Dispatch of the reply/ });
  await dispatch.click();
  await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("answered");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("region", { name: "Dispatch" })).toBeHidden();
  await expect(dispatch).toBeFocused();
  await arrives();

  // what is asked for first
  await build.reply(1).getByRole("button", { name: "another take" }).click();
  await expect(page.getByRole("button", { name: "Ask", exact: true })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(build.reply(1).getByRole("button", { name: "another take" })).toBeFocused();
  await arrives();

  // and where nothing is open, the reply
  await build.message.focus();
  await page.keyboard.press("Escape");
  await expect(build.reply(2, "stopped")).toBeVisible();
});

test("one panel is open under the sheet at a time", async ({ page, world }) => {
  const slug = await world.makeApp("One panel");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  await page.getByRole("button", { name: "ledger" }).click();
  const ledger = page.getByRole("region", { name: "What would be sent" });
  await expect(ledger).toBeVisible();
  await page.keyboard.press("Alt+g");
  await expect(page.getByRole("region", { name: "Say it again" })).toContainText("1 message");
  await expect(ledger).toBeHidden();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("region", { name: "Say it again" })).toBeHidden();
});

test("/ finds: in History at once, and from Build by going there", async ({ page, world }) => {
  const slug = await world.makeApp("Found by key");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.station("Reply").focus();
  await page.keyboard.press("/");
  await expect(page).toHaveURL(/history/);
  await expect(page.getByRole("textbox", { name: "Words" })).toBeFocused();
  await page.keyboard.type("hel");
  await expect(page.getByRole("main")).toContainText(/[1-9] places?/);
  await page.getByRole("button", { name: "import a file" }).focus();
  await page.keyboard.press("/");
  await expect(page.getByRole("textbox", { name: "Words" })).toBeFocused();
});

test("a take is chosen by a number of two digits, and the focus stays where takes are chosen", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Twelve takes");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  const message = (
    await world.bench<{ messages: { id: string }[] }>(
      "GET",
      `conversations/${new URL(page.url()).searchParams.get("conversation")}`,
    )
  ).messages[0]?.id;
  await world.bench("POST", `apps/${slug}/replies`, { again: message, count: 10 });
  await world.bench("POST", `apps/${slug}/replies`, { again: message });
  const shown = (at: number) => page.getByRole("article", { name: `Turn 1, reply, complete, take ${at} of 12` });
  await expect(shown(12)).toBeVisible();
  await page.keyboard.press("Alt+ArrowUp");
  const chosen = (at: number) => page.getByRole("button", { name: `take ${at}`, exact: true });
  await expect(chosen(12)).toBeFocused();
  await page.keyboard.type("11");
  await expect(shown(11)).toBeVisible();
  await expect(chosen(11)).toBeFocused();
  await page.keyboard.type("1");
  await expect(shown(1)).toBeVisible();
  await expect(chosen(1)).toBeFocused();
  await page.keyboard.type("0");
  await expect(shown(10)).toBeVisible();
});

test("a limit that is live is never set by half a number, and what is wrong is said in its place", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Half a number");
  await page.goto(`${world.address}/apps/${slug}/serve`);
  const field = page.getByRole("spinbutton", { name: "Calls a minute of one visitor" });
  const limit = async () =>
    (await world.bench<{ access: { limits: { visitor: number | null } } }>("GET", `apps/${slug}/serving`)).access.limits
      .visitor;
  await field.click();
  await page.keyboard.type("many");
  await page.keyboard.press("Tab");
  await expect(page.getByRole("alert").filter({ hasText: "“many” is no number." })).toBeVisible();
  await expect(field).toHaveValue("many");
  expect(await limit()).toBeNull();
  await fillValue(field, "1,200");
  await expect.poll(limit).toBe(1_200);
  await expect(field).toHaveAttribute("aria-valuenow", "1200");
  await expect(field).not.toHaveAttribute("aria-invalid");
  await field.fill("5");
  await page.keyboard.press("Escape");
  await expect(field).toHaveValue("1200");
  await field.press("ArrowUp");
  await expect(field).toHaveValue("1201");
  expect(await limit()).toBe(1_200);
  await page.keyboard.press("Enter");
  await expect.poll(limit).toBe(1_201);
});
