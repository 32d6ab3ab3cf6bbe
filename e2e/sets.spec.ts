import { readFileSync } from "node:fs";
import { expectAccessible, expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

test("a set is typed, asked, gone through and marked with the names hidden, by keyboard, and downloaded", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Typed set", { prompt: "You are Quay Desk.", settings: { maxOutput: 200 } });
  await world.editDraft(slug, { prompt: "You are Quay Desk. Answer in one sentence." });
  await page.goto(`${world.address}/apps/${slug}/compare`);
  await page.getByRole("link", { name: "a set of messages" }).focus();
  await page.keyboard.press("Enter");
  const text = page.getByRole("textbox", { name: "Messages of the set, a line each" });
  await expect(text).toBeFocused();
  await page.keyboard.type('"open');
  await expect(page.getByRole("alert").first()).toContainText("line 1 begins with a quote");
  await expect(page.getByRole("button", { name: "Ask both" })).toBeDisabled();
  await text.fill("I'm on the 9:40 with two bicycles\n  Which boat am I on?\nHello");
  await expect(page.getByText("2 rows for two lanes")).toBeVisible();
  await expect(page.getByText(/about €0\.\d+, at most €0\.\d+/)).toBeVisible();
  await expectAccessible(page, "a set that is typed");
  // what is typed is there after a reload
  await page.reload();
  await expect(text).toHaveValue(/Which boat am I on/);
  await text.focus();
  await page.keyboard.press("Alt+Enter");

  const table = page.getByRole("table", { name: "What was answered" });
  await expect(page.getByText("asked 4 of 4 answers")).toBeVisible();
  await expect(table.getByRole("columnheader", { name: "draft" })).toBeVisible();
  await page.getByRole("button", { name: "spread" }).click();
  await expect(page.getByText("Tokens a second")).toBeVisible();
  await expectAccessibleInBoth(page, "a set that was asked");

  await page.getByRole("button", { name: "mark them, names hidden" }).click();
  await expect(table.getByRole("columnheader", { name: "draft" })).toHaveCount(0);
  await expect(page.getByRole("link", { name: "CSV" })).toHaveCount(0);
  await table.getByLabel("Message 1, answer 1").focus();
  await page.keyboard.press("g");
  await page.keyboard.press("ArrowRight");
  await expect(table.getByLabel("Message 1, answer 2")).toBeFocused();
  await page.keyboard.press("b");
  await page.keyboard.press("Enter");
  await expect(table.getByRole("button", { name: "fold" })).toBeVisible();
  await page.keyboard.press("ArrowDown");
  await expect(page.getByText("2 answers to mark, then the names are shown")).toBeVisible();
  await page.keyboard.press("g");
  await page.keyboard.press("ArrowLeft");
  await page.keyboard.press("g");
  await expect(table.getByRole("columnheader", { name: "draft" })).toBeVisible();
  await expect(table.getByText(/\d good, \d bad/)).toHaveCount(2);
  await table.getByRole("button", { name: "dispatch 2" }).first().click();
  await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("Which boat am I on?");

  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "CSV" }).click();
  expect(readFileSync(await (await download).path(), "utf8").split("\r\n")).toHaveLength(5 + 1);

  await page.getByRole("textbox", { name: "Name of this set" }).fill("before the summer");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "change it and ask anew" }).click();
  await expect(text).toHaveValue("I'm on the 9:40 with two bicycles\n  Which boat am I on?\nHello");
  await page.getByRole("button", { name: "1 saved set" }).click();
  await page.getByRole("link", { name: "before the summer" }).click();
  await expect(table).toBeVisible();
  await page.getByRole("button", { name: "1 saved set" }).click();
  await page.getByRole("button", { name: "delete" }).click();
  await expect(page).toHaveURL(/set=new/);
});

test("what visitors said is chosen in History and asked as a set, and a file is taken beside it", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Chosen set");
  for (const message of ["Which boats?", "What does a dog cost?"])
    await fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: JSON.stringify({ message }) });
  await page.goto(`${world.address}/apps/${slug}/history`);
  await page.getByRole("button", { name: "choose them" }).click();
  await page.getByRole("button", { name: "their first messages" }).click();
  const text = page.getByRole("textbox", { name: "Messages of the set, a line each" });
  await expect(text).toHaveValue(/Which boats\?/);
  const file = page.getByLabel("File of messages");
  await file.setInputFiles({
    name: "more.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("message\nAnd on Sunday?\n"),
  });
  await expect(text).toHaveValue(/dog cost\?[\s\S]*And on Sunday\?/);
  await file.setInputFiles({ name: "bad.jsonl", mimeType: "text/plain", buffer: Buffer.from('{"text":1}\n') });
  await expect(page.getByRole("alert").first()).toContainText("bad.jsonl was not taken: line 1 holds no message");
  await expect(page.getByText("3 rows for two lanes")).toBeVisible();
});
