import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import type { Run } from "@/contract/checks";
import { expectAccessibleInBoth } from "./axe";
import { buildOf, expect, fillValue, test, type World } from "./fixtures";

const prompt = readFileSync("demo/quay-desk/prompt.txt", "utf8").trim();
const script = readFileSync("demo/quay-desk/quay-desk.checks", "utf8");

/** Checks, as the tests work with it. */
function checksOf(page: Page, world: World) {
  const editor = page.getByRole("textbox", { name: /^Script / });
  return {
    open: async (slug: string) => {
      await page.goto(`${world.address}/apps/${slug}/checks`);
      await expect(page.getByRole("main")).not.toHaveAttribute("aria-busy", "true");
    },
    run: page.getByRole("button", { name: /^Run / }),
    editor,
    check: (name: string) => page.getByRole("article", { name, exact: true }),
    group: (name: string) => page.getByRole("region", { name, exact: true }),
    trials: page.getByRole("spinbutton", { name: "Trials of each check on each candidate" }),
    ended: async (of: number) => {
      await expect(page.getByRole("button", { name: "Stop it" })).toHaveCount(0);
      await expect(page.getByText(new RegExp(`^\\d+ of ${of} trials held`))).toBeVisible();
    },
  };
}

/** An app with the prompt of Quay Desk on a careful model, with some checks. */
async function checkedApp(world: World, name: string, text: string): Promise<string> {
  const slug = await world.makeApp(name, { prompt, model: "reed-deep", settings: { maxOutput: 500 } });
  if (text !== "") await world.bench("PUT", `apps/${slug}/checks/quay-desk`, { text, was: null });
  return slug;
}

test("from a new app to the first broken check by the README's words, in at most twelve acts", async ({
  page,
  world,
}) => {
  await world.wire();
  let acts = 0;
  const act = async (does: Promise<unknown>) => {
    acts += 1;
    await does;
  };
  await page.goto(`${world.address}/apps`);
  // "On Apps, complete the sentence: a name and a model."
  await act(page.getByRole("textbox", { name: "Name of the app" }).fill("First checked"));
  await act(page.getByRole("button", { name: "Make it" }).click());
  await expect(page.getByRole("textbox", { name: "Message" })).toBeFocused();
  // "Checks ... Where an app has none yet, the view opens on the script; write, beginning each check with its name"
  await act(page.getByRole("link", { name: "Checks" }).click());
  const checks = checksOf(page, world);
  await expect(checks.editor).toBeFocused();
  await act(
    page.keyboard.type(
      "check  prices a bicycle\nvisitor  What does a bicycle cost?\n    states €2.00\nat most 2 sentences",
    ),
  );
  // "Alt+Enter runs the check that the cursor is in"
  await act(page.keyboard.press("Alt+Enter"));
  await expect(checks.group("Broke, as live")).toContainText("prices a bicycle");
  await expect(checks.check("prices a bicycle")).toContainText(/live, trial 1: it (said|stated)/);
  expect(acts).toBeLessThanOrEqual(12);
});

test("what is worse stands first, with the reply, what was not sent and the sentence that is missing", async ({
  page,
  world,
}) => {
  const slug = await checkedApp(world, "Worse first", script);
  await world.editDraft(slug, {
    prompt: prompt.replace("Answer in at most five sentences.\n", ""),
    memory: { kind: "last-turns", turns: 2 },
  });
  const checks = checksOf(page, world);
  await checks.open(slug);
  await fillValue(checks.trials, "5");
  await expect(checks.run).toHaveText(/^Run 160 trials, about €/);
  await page.keyboard.press("Alt+r");
  await checks.ended(160);
  const worse = checks.group("Worse");
  await expect(worse.getByRole("article").first()).toHaveAttribute("aria-label", "remembers the boat");
  // the one that leads is open
  const forgets = checks.check("remembers the boat");
  await expect(forgets).toContainText("“9:40” was not sent");
  await expect(forgets).toContainText(/turn 1/);
  const short = checks.check("keeps it short");
  await short.getByRole("button", { name: "keeps it short" }).click();
  await expect(short.locator("del")).toHaveText(["Answer in at most five sentences."]);
  await expect(short).toContainText(/draft, trial \d: it said \d+ sentences/);

  // from the line to the trial, its conversation and its dispatch; and back
  await short.getByRole("button", { name: "the reply and its dispatch" }).first().click();
  const trial = page.getByRole("region", { name: "Trial" });
  await expect(trial).toContainText("Which boats are there today");
  await trial
    .getByRole("button", { name: /dispatch/ })
    .first()
    .click();
  await expect(trial.getByRole("region", { name: /Dispatch/ })).toBeVisible();
  await expect(trial.getByText(/reed-deep/).first()).toBeVisible();

  // the trials are counted in a bar, with their interval
  await short.locator("[data-head] [tabindex='0']").last().focus();
  await expect(page.getByText(/0 of 5 held: between 0% and 43% hold/)).toBeVisible();

  // Build tells, and making live asks
  const build = buildOf(page, world);
  await build.open(slug);
  await expect(build.prompt).toContainText(/checked \d+:\d+: \d worse/);
  await build.prompt.getByRole("button", { name: "make live" }).click();
  const asks = page.getByRole("alert").filter({ hasText: "Checks are worse" });
  await expect(asks).toContainText("remembers the boat");
  await asks.getByRole("button", { name: "leave it" }).click();
  await expect(asks).toBeHidden();
  const app = () => world.bench<{ liveRevision: number }>("GET", `apps/${slug}`);
  const { liveRevision } = await app();
  await build.prompt.getByRole("button", { name: "make live" }).click();
  await asks.getByRole("button", { name: "make it live all the same" }).click();
  await expect.poll(async () => (await app()).liveRevision).toBeGreaterThan(liveRevision);
});

test("what chance could have done is perhaps worse, and says how many trials would tell", async ({ page, world }) => {
  const slug = await checkedApp(
    world,
    "Perhaps",
    "check  short\nvisitor  Which boats are there today, and where do they go?\n    at most 5 sentences\n",
  );
  await world.editDraft(slug, { prompt: prompt.replace("Answer in at most five sentences.\n", "") });
  const checks = checksOf(page, world);
  await checks.open(slug);
  await checks.run.click();
  await checks.ended(2);
  const perhaps = checks.group("Perhaps worse");
  await expect(perhaps).toContainText("too few trials to tell");
  const more = checks.check("short").getByRole("button", { name: /^run \d+ more of this one, about €/ });
  const count = Number(/\d+/.exec((await more.textContent()) ?? "")?.[0]);
  await more.click();
  await checks.ended(2 + 2 * count);
  await expect(checks.group("Worse")).toContainText("short");
});

test("the script is written in place: errors where they stand, words offered, kept while it can't be read", async ({
  page,
  world,
}) => {
  const slug = await checkedApp(world, "Written", "check  one\nvisitor  Hello\n    ends complete\n");
  const checks = checksOf(page, world);
  await checks.open(slug);
  await page.keyboard.press("Alt+e");
  await expect(checks.editor).toBeFocused();
  await page.keyboard.press("Control+End");
  await page.keyboard.type("\ncheck  two\nvisitor  Hello\n    states\n");
  await expect(page.getByText("1 line can't be read")).toBeVisible();
  await expect(page.locator(".cm-lintRange-error, .cm-lint-marker-error").first()).toBeVisible();
  await expect(page.getByText("saved", { exact: true })).toBeVisible();
  // it is not run by halves
  await page.getByRole("button", { name: /^Run / }).click();
  await expect(
    page
      .getByRole("alert")
      .or(page.getByText(/quay-desk, line 7/))
      .first(),
  ).toBeVisible();
  expect((await world.bench<{ runs: Run[] }>("GET", `apps/${slug}/runs`)).runs).toEqual([]);

  await page.reload();
  await page.getByRole("button", { name: "edit" }).first().click();
  await expect(checks.editor).toBeFocused();
  await checks.editor.getByText("states", { exact: true }).last().click();
  await page.keyboard.press("End");
  await page.keyboard.type(" 9:40");
  await expect(page.getByText(/can't be read/)).toHaveCount(0);
  await page.keyboard.type("\nh");
  await page.keyboard.press("Control+Space");
  await expect(page.getByRole("listbox")).toContainText("has a list");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Backspace");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("region", { name: "Run", exact: true })).toBeVisible();
});

test("two tabs on one script: the second is told, and chooses", async ({ page, context, world }) => {
  const slug = await checkedApp(world, "Two tabs on it", "check  one\nvisitor  Hello\n");
  const checks = checksOf(page, world);
  await checks.open(slug);
  await page.keyboard.press("Alt+e");
  await expect(checks.editor).toBeFocused();
  // the text is kept by the browser for all its tabs: another developer's browser is another one
  const { scripts } = await world.bench<{ scripts: { hash: string }[] }>("GET", `apps/${slug}/checks`);
  await page.keyboard.press("Control+End");
  await context.setOffline(true);
  await page.keyboard.type('    says "mine"\n');
  await world.bench("PUT", `apps/${slug}/checks/quay-desk`, {
    text: 'check  one\nvisitor  Hello\n    says "theirs"\n',
    was: scripts[0]?.hash,
  });
  await context.setOffline(false);
  await page.keyboard.type("# mine\n");
  await expect(page.getByText("quay-desk was changed meanwhile.")).toBeVisible();
  await page.getByRole("button", { name: "put mine in its place" }).click();
  await expect
    .poll(
      async () => (await world.bench<{ scripts: { text: string }[] }>("GET", `apps/${slug}/checks`)).scripts[0]?.text,
    )
    .toContain('says "mine"');
});

test("a check is made of a conversation by key, opens to be weeded, and holds", async ({ page, world }) => {
  const slug = await checkedApp(world, "By key", "");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("What does a bicycle cost?");
  await expect(build.reply(1, "complete")).toBeVisible();
  await page.keyboard.press("Alt+k");
  const checks = checksOf(page, world);
  await expect(checks.editor).toContainText("states €2.00");
  await expect(checks.editor).toBeFocused();
  await page.keyboard.press("Alt+Enter");
  await checks.ended(1);
  await expect(checks.check("What does a bicycle cost?")).toBeVisible();

  // and from History
  await page.goto(`${world.address}/apps/${slug}/history`);
  await page.getByRole("listitem").first().getByRole("button").first().click();
  await expect(page.getByRole("button", { name: "Continue from here" })).toBeVisible();
  await page.keyboard.press("Alt+k");
  await expect(checks.editor).toContainText("What does a bicycle cost? (2)");
});

test("a run is stopped and gone on with, held against an earlier one, listed and deleted", async ({ page, world }) => {
  const names = Array.from(
    { length: 6 },
    (_, at) => `check  number ${at}\nvisitor  Question ${at}: hello?\n    ends complete\n`,
  );
  const slug = await checkedApp(world, "Stopped", names.join("\n"));
  const checks = checksOf(page, world);
  await world.pace(30);
  await checks.open(slug);
  await fillValue(checks.trials, "4");
  await checks.run.click();
  await expect(page.getByText(/[1-9]\d* of 24 trials/)).toBeVisible();
  await page.getByRole("button", { name: "Stop it" }).click();
  await expect(page.getByText("stopped ·")).toBeVisible();
  await world.pace("instant");
  const first = new URL(page.url()).searchParams.get("run");
  await page.getByRole("button", { name: "go on with it" }).click();
  await expect(page.getByText("24 of 24 trials held", { exact: true })).toBeVisible();

  // a second click that lands on what takes the button's place stops nothing
  await checks.run.dblclick();
  await expect(page).not.toHaveURL(new RegExp(`run=${first}`));
  await expect(page.getByText("24 of 24 trials held", { exact: true })).toBeVisible();
  const against = page.getByRole("combobox", { name: "What it is held against" });
  await against.click();
  await page
    .getByRole("option", { name: /^the run of/ })
    .first()
    .click();
  await expect(checks.group("As the earlier run")).toContainText("number 0");
  await page.getByRole("button", { name: "earlier runs" }).click();
  const list = page.getByRole("region", { name: /runs/i });
  await expect(list.getByRole("row")).toHaveCount(3);
  await list
    .getByRole("button", { name: /^Delete the run/ })
    .last()
    .click();
  await page.getByRole("dialog").getByRole("button", { name: "Delete it" }).click();
  await expect(list.getByRole("row")).toHaveCount(2);
});

test("two thousand lines are typed in without lag", async ({ page, world }) => {
  const one = (at: number) =>
    `check  number ${at}\nvisitor  What does a bicycle cost?\n    states €2.00\n    at most 5 sentences\n`;
  const slug = await checkedApp(world, "Long", Array.from({ length: 400 }, (_, at) => one(at)).join("\n"));
  const checks = checksOf(page, world);
  await checks.open(slug);
  await page.keyboard.press("Alt+e");
  await expect(checks.editor).toBeFocused();
  await page.keyboard.press("Control+End");
  await page.keyboard.type("# what is typed at the end of two thousand lines stands there\n");
  await expect(checks.editor).toContainText("stands there");
  await expect(page.getByText("400 checks", { exact: true })).toBeVisible();
});

test("by keyboard, without a colour alone, and at 1024 px in both themes", async ({ page, world }) => {
  const slug = await checkedApp(world, "Reachable checks", script);
  await world.editDraft(slug, { memory: { kind: "last-turns", turns: 2 } });
  const checks = checksOf(page, world);
  await page.setViewportSize({ width: 1024, height: 768 });
  await checks.open(slug);
  await checks.run.focus();
  await page.keyboard.press("Enter");
  await checks.ended(32);
  await expect(checks.check("remembers the boat").getByText("1 broke").first()).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
  await expectAccessibleInBoth(page, "a run");
  await page.keyboard.press("Alt+e");
  await expect(checks.editor).toBeFocused();
  await expectAccessibleInBoth(page, "the editor");
});
