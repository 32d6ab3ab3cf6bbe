import { readFileSync } from "node:fs";
import { expectAccessible, expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

const passenger =
  "You are a passenger. Ask these, one at a time: Which boats go to Tansy Holm in the morning?; Do they take bicycles?; What does a dog cost? Then say goodbye.";

test("two candidates talk, by keyboard: one with a prompt of its own; a reload in the midst changes nothing, a word is put in, and both say goodbye", async ({
  page,
  world,
}) => {
  await world.pace(120);
  const slug = await world.makeApp("Duet", { prompt: "You are Quay Desk of Saltmarsh Ferry." });
  await world.editDraft(slug, { prompt: passenger });
  await page.goto(`${world.address}/apps/${slug}/compare`);
  await page.getByRole("link", { name: "let two of them talk" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("button", { name: "Let them talk" })).toBeFocused();
  await page.getByRole("combobox", { name: "Who speaks first" }).press("ArrowDown");
  await page.getByText("draft opens", { exact: true }).last().click();
  await page.getByRole("textbox", { name: "What the opener is told" }).fill("Good day, this is Quay Desk.");
  await page.keyboard.press("Enter");
  await expectAccessible(page, "a duet that is to begin");
  await page.getByRole("button", { name: "Let them talk" }).press("Enter");
  await page.waitForURL(/duet=due_/);

  const said = (number: number, state = "complete") =>
    page.getByRole("article", { name: new RegExp(`^Utterance ${number}, .*, ${state}`) });
  await expect(said(1)).toContainText("Which boats go to Tansy Holm in the morning?");
  await expect(said(1)).toContainText("draft");
  await expect(said(2, "")).toContainText("live");
  await page.reload();
  await expect(said(2)).toBeVisible();
  const word = page.getByRole("textbox", { name: "A word that is put in" });
  await word.fill("Mind the fog.");
  await word.press("Enter");
  await expect(page.getByRole("article", { name: /^A word to / }).first()).toContainText("Mind the fog.");
  await expect(page.getByText("It ended by itself: both said goodbye.").first()).toBeVisible();
  await expect(said(7)).toContainText("Goodbye");
  await expect(page.getByText(/^in circles/)).toBeVisible();
  await said(3).getByRole("button", { name: "dispatch" }).click();
  await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("Do they take bicycles");
  await page.keyboard.press("Escape");
  await expectAccessibleInBoth(page, "a duet that has ended");

  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Markdown" }).click();
  expect(readFileSync(await (await download).path(), "utf8")).toContain("Which boats go to Tansy Holm");

  // it goes on, and is stopped by key
  await world.fault({ fault: "slow-start", ms: 60_000 });
  await page.getByRole("button", { name: "Continue" }).press("Enter");
  await expect(said(9, "(?:waiting|arriving)")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByText("It was stopped.").first()).toBeVisible();
  await world.fault(null);
  await page.getByRole("button", { name: "change it and begin anew" }).click();
  await expect(page.getByRole("textbox", { name: "What the opener is told" })).toHaveValue(
    "Good day, this is Quay Desk.",
  );
  await page.getByRole("button", { name: "1 saved duet" }).click();
  await expect(page.getByRole("cell", { name: "stopped" })).toBeVisible();
  await page.getByRole("button", { name: "delete" }).click();
  await page.getByRole("button", { name: "undo" }).click();
  await expect(page.getByRole("cell", { name: "stopped" })).toBeVisible();
});

test("a duet that can't continue says why, and goes on once it can", async ({ page, world }) => {
  await world.pace("instant");
  const slug = await world.makeApp("Broken duet", { prompt: passenger });
  await world.fault({ fault: "status", status: 401, calls: 1 });
  await page.goto(`${world.address}/apps/${slug}/compare?duet=new`);
  await page.getByRole("button", { name: "Let them talk" }).click();
  await expect(page.getByText("It could not continue.").first()).toBeVisible();
  await expect(page.getByRole("alert").first()).toContainText("did not accept the key");
  await page.getByRole("button", { name: "Continue" }).click();
  await expect(page.getByText(/^It ended/).first()).toBeVisible();
});
