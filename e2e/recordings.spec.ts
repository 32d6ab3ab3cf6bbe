import { expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

const script = `check  prices a bicycle
visitor  What does a bicycle cost?
    ends complete

check  lets dogs travel free
visitor  Do dogs pay on the ferry?
    ends complete
`;

test("answers are recorded by a run and played by the next, by keyboard; a file is downloaded, taken in, and let go of", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Played in the view", { model: "reed-deep" });
  await world.bench("PUT", `apps/${slug}/checks/quay-desk`, { text: script, was: null });
  await page.goto(`${world.address}/apps/${slug}/checks`);
  const from = page.getByRole("combobox", { name: "Where the answers come from" });
  const choose = async (label: string) => {
    await from.focus();
    await page.keyboard.press("Enter");
    const option = page.locator(".ant-select-item-option-active");
    for (let presses = 0; presses < 5 && (await option.innerText()) !== label; presses++)
      await page.keyboard.press("ArrowDown");
    await page.keyboard.press("Enter");
  };
  const run = page.getByRole("button", { name: /^Run / });
  const begin = async () => {
    await run.focus();
    await page.keyboard.press("Enter");
  };
  const recorded = page.getByRole("region", { name: "What is recorded" });
  const held = page.getByText(/^2 of 2 trials held/);

  await choose("playing what is recorded alone");
  await expect(recorded).toContainText("Nothing is recorded yet.");
  await begin();
  await expect(page.getByRole("main").getByRole("alert")).toContainText("Nothing is recorded of Played in the view");
  await choose("calling the providers, and recording them");
  await begin();
  await expect(held).toBeVisible();
  await expect(recorded).toContainText(/2 answers recorded, the oldest .*kB of 16\.8 MB/);

  await choose("playing what is recorded alone");
  await expect(run).toHaveText("Run 2 trials");
  await world.forgetCalls();
  await begin();
  await expect(recorded).toContainText("This run called nobody");
  await expect(held).toBeVisible();
  expect(await world.calls()).toEqual([]);
  await expectAccessibleInBoth(page, "a run that was played");

  const download = page.waitForEvent("download");
  await recorded.getByRole("link", { name: "download them" }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe(`${slug}.recordings.jsonl`);
  const given = recorded.getByLabel("File of recordings");
  await given.setInputFiles({ name: "broken.jsonl", mimeType: "application/jsonl", buffer: Buffer.from("{}\n") });
  await expect(recorded.getByRole("alert")).toContainText("Line 1");
  await expect(recorded).toContainText("2 answers recorded");
  await recorded.getByRole("button", { name: "let go of them" }).click();
  await expect(recorded).toContainText("Nothing is recorded yet.");
  await given.setInputFiles(await file.path());
  await expect(recorded).toContainText("2 answers recorded");
});
