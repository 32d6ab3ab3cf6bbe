import type { Page } from "@playwright/test";
import { buildOf, expect, test } from "./fixtures";

/** Has the focus somewhere that is seen. */
async function seesFocus(page: Page): Promise<void> {
  await expect
    .poll(() =>
      page.evaluate(() => {
        const { activeElement: at } = document;
        if (!at || at === document.body) return "nowhere";
        const { top, bottom, width } = at.getBoundingClientRect();
        if (!at.checkVisibility() || width === 0) return `out of sight: ${at.outerHTML.slice(0, 80)}`;
        return bottom > 0 && top < innerHeight ? "seen" : `beyond the window: ${at.outerHTML.slice(0, 80)}`;
      }),
    )
    .toBe("seen");
}

test("the focus is kept or given back at every act on a row", async ({ page, world }) => {
  const slug = await world.makeApp("Focus");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("I'm Ivo");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.say("Hello");
  await expect(build.reply(2, "complete")).toBeVisible();
  const first = page.getByRole("article", { name: "Turn 1, visitor" });
  const act = async (row: typeof first, name: string) => {
    await row.getByRole("button", { name, exact: true }).focus();
    await page.keyboard.press("Enter");
  };
  await act(first, "pin");
  await expect(first.getByRole("button", { name: "unpin" })).toBeFocused();
  await act(first, "unpin");
  await expect(first.getByRole("button", { name: "pin", exact: true })).toBeFocused();

  await act(build.reply(1), "clear below");
  await expect(page.getByRole("note").getByRole("button", { name: "delete it" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("note")).toHaveCount(0);
  await expect(build.reply(1).getByRole("button", { name: "clear below" })).toBeFocused();

  await act(build.reply(1), "correct");
  await page.keyboard.type(" Aye.");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, reply, complete, take 2 of 2" })).toBeVisible();
  await seesFocus(page);

  await page.getByRole("button", { name: "take 1", exact: true }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, reply, complete, take 1 of 2" })).toBeVisible();
  await expect(page.getByRole("button", { name: "take 1", exact: true })).toBeFocused();

  await act(build.reply(1), "delete this take");
  await expect(page.getByRole("dialog")).toContainText("It goes for good.");
  await page.keyboard.press("Escape");
  await expect(build.reply(1).getByRole("button", { name: "delete this take" })).toBeFocused();
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Delete it for good" }).press("Enter");
  await expect(page.getByRole("group", { name: /Takes of turn 1/ })).toHaveCount(0);
  await seesFocus(page);

  await act(first, "change");
  await page.keyboard.press("Control+a");
  await page.keyboard.type("I'm Ada");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, visitor, line 2 of 2" })).toContainText("I'm Ada");
  await expect(build.reply(1, "complete")).toBeVisible();
  await seesFocus(page);
});

test("five minutes by keyboard alone: an app made, its prompt edited, sent, stopped, another take, a branch, found, downloaded, made live", async ({
  page,
  world,
}) => {
  await world.wire();
  const build = buildOf(page, world);
  await page.goto(`${world.address}/apps`);
  const to = async (name: string | RegExp, role: "button" | "link" | "textbox" = "button") => {
    // by Tab alone, as often as it takes
    const wanted = page.getByRole(role, { name, exact: typeof name === "string" }).first();
    await expect(wanted).toBeAttached();
    for (let steps = 0; steps < 120; steps += 1) {
      if (await wanted.evaluate((element) => element === document.activeElement)) return;
      await page.keyboard.press("Tab");
    }
    throw new Error(`No Tab leads to ${name}.`);
  };
  await to("Name of the app", "textbox");
  await page.keyboard.type("Night Desk");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/\/apps\/night-desk\/build/);
  await expect(build.message).toBeFocused();

  await page.keyboard.press("Alt+2");
  await to("edit it in row 0");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "System prompt" })).toBeFocused();
  await page.keyboard.press("Control+a");
  await page.keyboard.type("You are the night desk.");
  await page.keyboard.press("Escape");
  await seesFocus(page);

  await to("Message", "textbox");
  await world.pace(25);
  await page.keyboard.type("Tell me a story about the ferry in 1500 words");
  await page.keyboard.press("Enter");
  await expect(build.reply(1, "arriving")).toContainText("The crossing");
  await page.keyboard.press("Escape");
  await expect(build.reply(1, "stopped")).toBeVisible();
  await seesFocus(page);
  await world.pace("instant");
  await page.keyboard.press("Alt+a");
  await expect(page.getByRole("article", { name: /Turn 1, reply, (complete|cut), take 2 of 2/ })).toBeVisible();
  await page.keyboard.press("Alt+ArrowUp");
  await page.keyboard.press("1");
  await expect(page.getByRole("article", { name: "Turn 1, reply, stopped, take 1 of 2" })).toBeVisible();
  await expect(page.getByRole("button", { name: "take 1", exact: true })).toBeFocused();

  await page.getByRole("article", { name: "Turn 1, visitor" }).getByRole("button", { name: "change" }).focus();
  await page.keyboard.press("Enter");
  await page.keyboard.press("Control+a");
  await page.keyboard.type("Which boats go to Brindle?");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, visitor, line 2 of 2" })).toBeVisible();
  await expect(build.reply(1, "complete")).toContainText("Brindle");
  await seesFocus(page);

  await build.station("Reply").focus();
  await page.keyboard.press("/");
  await expect(page.getByRole("textbox", { name: "Words" })).toBeFocused();
  await page.keyboard.type("brindle");
  await expect(page.getByRole("main")).toContainText("1 conversation");
  await to("JSON Lines", "link");
  const file = page.waitForEvent("download");
  await page.keyboard.press("Enter");
  expect((await file).suggestedFilename()).toMatch(/\.jsonl$/);
  await seesFocus(page);

  await page.keyboard.press("Shift+Tab");
  await to("Build", "link");
  await page.keyboard.press("Enter");
  await expect(build.message).toBeFocused();
  await build.prompt.getByRole("button", { name: "make live" }).focus();
  await page.keyboard.press("Enter");
  await expect(build.prompt).toContainText("live");
  await expect
    .poll(async () => (await world.bench<{ liveRevision: number }>("GET", "apps/night-desk")).liveRevision)
    .toBe(2);
  await seesFocus(page);
  await world.bench("DELETE", "apps/night-desk");
});
