import { buildOf, expect, test } from "./fixtures";

const schema = {
  title: "a booking",
  type: "object",
  properties: {
    to: { enum: ["Brindle", "Tansy Holm"] },
    seats: { type: "integer", minimum: 1 },
    legs: {
      type: "array",
      items: { type: "object", properties: { at: { type: "string" } }, required: ["at"] },
      minItems: 2,
    },
    note: { type: ["string", "null"] },
  },
  required: ["to", "seats", "legs", "note"],
};
const asking = "Book 3 seats to Brindle, please.";

test("an app is made to answer as data: the schema in its sentence, its type, and a tree that fills while the reply comes", async ({
  page,
  world,
}) => {
  await world.wire();
  const slug = await world.makeApp("Made typed", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Model").click();
  const form = page.getByRole("region", { name: "Form of the reply" });
  await expect(form).toContainText("Answers in words.");
  await form.getByRole("combobox", { name: "How it answers" }).click();
  await page.getByText("as data", { exact: true }).click();
  const editor = form.getByRole("textbox", { name: "Schema of the reply" });
  // what can't be read yet leaves the schema as it was
  await editor.fill("{");
  await expect(form.getByRole("status")).toContainText("This is not JSON yet. Until that is put right");
  await editor.fill('{"type": "no type"}');
  await expect(form.getByRole("status")).toContainText("type");
  await editor.fill(JSON.stringify(schema));
  await expect(form.getByRole("button", { name: "a booking" })).toBeVisible();
  await form.getByText("its type, in TypeScript").click();
  await expect(form).toContainText('to: "Brindle" | "Tansy Holm";');

  await world.pace(30);
  await build.say(asking);
  const reply = build.reply(1);
  const rows = reply.locator("li");
  await expect(reply.getByText("the reply")).toBeVisible();
  await expect(rows.filter({ hasText: "to" }).first()).toContainText("Brindle");
  const early = await rows.count();
  await expect(build.reply(1, "complete")).toBeVisible();
  expect(await rows.count()).toBeGreaterThan(early);
  await expect(rows.filter({ hasText: "seats" }).first()).toContainText("3");
  // the words are there too, folded
  await reply.getByText("as it was written").click();
  await expect(reply.getByText('"seats": 3')).toBeVisible();
  // by the keyboard the tree folds
  const legs = reply
    .locator("details")
    .filter({ has: page.getByText("legs", { exact: true }) })
    .last();
  await expect(legs).toHaveAttribute("open");
  await legs.locator("summary").first().focus();
  await page.keyboard.press("Enter");
  await expect(legs).not.toHaveAttribute("open");
  // it is the same after a reload, and in what is sent it is counted
  await page.reload();
  await expect(build.reply(1, "complete")).toContainText("Brindle");
  await build
    .reply(1, "complete")
    .getByRole("button", { name: /^Dispatch of/ })
    .click();
  await expect(page.getByRole("cell", { name: /schema/i }).first()).toBeVisible();
});

test("a reply that never fits is a named problem beside its text, at the bench and on the page", async ({
  page,
  world,
}) => {
  const never = { type: "object", properties: { seats: { type: "integer" } }, required: ["seats"], not: {} };
  const slug = await world.makeApp("Never fits here", { model: "reed-deep", schema: never });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say(asking);
  await expect(build.reply(1, "failed")).toContainText("does not fit its schema");
  await expect(build.reply(1, "failed")).toContainText('"seats": 3');
  await expect(build.reply(1, "failed")).toContainText("asked for once more");
  await page.goto(`${world.address}/talk/${slug}`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.fill(asking);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("article").last().getByRole("alert")).toBeVisible();
  await expect(page.getByRole("article").last()).toContainText('"seats": 3');
});
