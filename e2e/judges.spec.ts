import { expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

const script = 'check  is polite\nvisitor  Thank you\n    meets "is polite"\n    has no table\n';

test("a judge is chosen, replies are judged by hand by key, and what the judge says of them is told with its interval", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Judges", { prompt: "You are Quay Desk." });
  await world.bench("PUT", `apps/${slug}/checks/a`, { text: script, was: null });
  await page.goto(`${world.address}/apps/${slug}/checks`);
  await page.getByRole("button", { name: /^Run 1 trial/ }).click();
  await expect(page.getByText("1 of 1 trials held", { exact: true })).toBeVisible();
  const name = page.getByRole("article", { name: "is polite" }).getByRole("button", { name: "is polite", exact: true });
  await name.click();
  await expect(page.getByText("was not judged: no judge is chosen")).toBeVisible();

  await page.getByRole("button", { name: "who judges by rubrics" }).press("Enter");
  const panel = page.getByRole("region", { name: "Judges" });
  await expect(panel.getByText("an opinion", { exact: true })).toBeVisible();
  await panel.getByRole("combobox", { name: "Who judges" }).press("ArrowDown");
  await page.getByText("reed-swift on Reedbed", { exact: true }).last().click();
  await panel.getByRole("button", { name: "judge by hand" }).press("Enter");
  const replies = panel.getByRole("listitem");
  await expect(replies).toHaveCount(1);
  await replies.first().getByRole("button", { name: "meets it" }).focus();
  await page.keyboard.press("y");
  await expect(replies.first().getByRole("button", { name: "meets it" })).toHaveAttribute("aria-pressed", "true");
  await panel.getByRole("textbox", { name: "A reply of your own" }).fill("What do you want?");
  await panel.getByRole("button", { name: "It misses it" }).press("Enter");
  await expect(replies).toHaveCount(2);
  await panel.getByRole("button", { name: "Ask the judge about 2 replies" }).press("Enter");
  await expect(panel.getByRole("cell", { name: "1 of 1, 21% to 100%" })).toHaveCount(2);
  await expect(panel.getByText(/the judge: misses it\. No: the reply has not polite words/)).toBeVisible();
  await expectAccessibleInBoth(page, "judges");

  await panel.getByRole("button", { name: "fold" }).last().click();
  await page.getByRole("button", { name: /^Run 1 trial/ }).click();
  if ((await name.getAttribute("aria-expanded")) === "false") await name.click();
  await expect(page.getByText(/in the judge's opinion meets it/)).toBeVisible();
});
