import type { Source } from "@/contract/sources";
import { expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

const rules = `# Rules

## Bicycles
A bicycle costs €2.00 each way and needs a place.

## Refunds
Tickets are refunded in full until 24 hours before the sailing.
`;

test("retrieval is tested by keyboard: a question is typed, others are proposed and weeded, and all are asked on two cuts", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Retrieving", { model: "reed-deep" });
  const added = await fetch(`${world.address}/api/bench/apps/${slug}/sources/files?name=rules.md`, {
    method: "POST",
    headers: { "content-type": "application/octet-stream" },
    body: rules,
  });
  const { id } = (await added.json()) as Source;
  await world.editDraft(slug, { sources: { documents: [{ source: id }] } });
  const isCut = async () =>
    (await world.bench<{ sources: Source[] }>("GET", `apps/${slug}/sources`)).sources[0]?.passages ?? 0;
  await expect.poll(isCut, { timeout: 30_000 }).toBeGreaterThan(0);

  await page.goto(`${world.address}/apps/${slug}/build`);
  await page.getByRole("button", { name: /^Sources/ }).click();
  await page.getByRole("button", { name: "test retrieval" }).press("Enter");
  const test = page.getByRole("region", { name: "Test retrieval" });
  await expect(test.getByRole("button", { name: "Ask them" })).toBeDisabled();
  await test.getByRole("button", { name: "add a question" }).press("Enter");
  await test.getByRole("textbox", { name: "Question", exact: true }).fill("What does a bicycle cost?");
  const words = test.getByRole("textbox", { name: "Words of the document that answer it" });
  await words.fill("it costs nothing");
  await words.press("Enter");
  await expect(test.getByRole("alert")).toContainText("No document that Retrieving answers from holds the words");
  await words.fill("costs €2.00 each way");
  await words.press("Enter");
  await expect(test.getByRole("list", { name: "Questions" })).toContainText("“costs €2.00 each way” Rules");

  await test.getByRole("button", { name: "have the model propose" }).press("Enter");
  await expect(test.getByText("2 questions to be weeded: they are not asked yet.")).toBeVisible();
  await test.getByRole("button", { name: "ask it" }).first().press("Enter");
  await expect(test.getByText("1 question to be weeded: they are not asked yet.")).toBeVisible();
  await test
    .getByRole("button", { name: /^delete: What holds/ })
    .first()
    .press("Enter");
  await expect(test.getByRole("listitem")).toHaveCount(2);

  await test.getByRole("button", { name: "another size beside it" }).press("Enter");
  await test.getByRole("button", { name: "Ask them" }).press("Enter");
  await expect(
    test.getByRole("row", { name: /^180 tokens, 20 over as now the words 100% 100% 100% 1.00/ }),
  ).toBeVisible();
  await expect(test.getByRole("row", { name: /^90 tokens, 20 over the words/ })).toBeVisible();
  await expect(test.getByText("at place 1").first()).toBeVisible();
  await expectAccessibleInBoth(page, "test retrieval");
});
