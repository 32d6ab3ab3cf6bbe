import { personalKinds } from "@/core/guards/personal";
import { sent, shown } from "@/core/guards/test/parts";
import { expectAccessibleInBoth } from "./axe";
import { expect, test } from "./fixtures";

const prompt = "You are Quay Desk of Saltmarsh Ferry.";

test("a guard is made and tried by keyboard, switched on, masks what is sent, and is listed with what it caught", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Guarded", { prompt, model: "reed-deep" });
  await page.goto(`${world.address}/apps/${slug}/build`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.fill("My e-mail is ann@quay.example");
  await message.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, reply, complete" })).toBeVisible();

  await page.keyboard.press("Alt+1");
  await page.getByRole("button", { name: "add a guard" }).press("Enter");
  const guards = page.getByRole("region", { name: "Guards before sending" });
  await expect(guards).toContainText("Before a message is sent, Guard 1 is off.");
  for (const kind of personalKinds)
    await expect(guards.getByRole("checkbox", { name: new RegExp(kind) })).toBeChecked();
  await guards.getByRole("textbox", { name: "Name of the guard" }).fill("Addresses");
  await page.keyboard.press("Enter");
  await guards.getByRole("button", { name: "try it on stored messages" }).press("Enter");
  await expect(guards.getByRole("status")).toContainText("It finds something in 1 message of 1");
  await expect(guards.getByText("My e-mail is ann@quay.example")).toBeVisible();
  await guards.getByRole("button", { name: "texts that it should catch" }).press("Enter");
  await guards.getByRole("textbox", { name: /Texts that it should catch/ }).fill("tom@quay.example\ntom at quay");
  await guards.getByRole("button", { name: "Look at 2 texts" }).press("Enter");
  await expect(guards.getByText("It catches 1 of 2; it misses:")).toBeVisible();
  await expectAccessibleInBoth(page, "a guard that is tried");

  await guards.getByRole("combobox", { name: "Whether the guard is on" }).press("ArrowDown");
  await page.getByText("on", { exact: true }).last().click();
  await expect(guards).toContainText(
    "Addresses masks e-mail addresses, phone numbers, card numbers, and account numbers",
  );
  await page.keyboard.press("Escape");
  await message.fill("What is my e-mail?");
  await message.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 2, reply, complete" })).toContainText("ann@quay.example");
  await message.fill("And tom@quay.example is my brother's.");
  await message.press("Enter");
  await expect(page.getByText("masked: 1 e-mail address")).toBeVisible();
  await page
    .getByRole("button", { name: /^Dispatch of the reply/ })
    .last()
    .press("Enter");
  await expect(
    page
      .getByRole("region", { name: "Dispatch" })
      .getByText(/\[e-mail #2\] is my brother/)
      .first(),
  ).toBeVisible();
  await page.keyboard.press("Escape");

  await page.keyboard.press("Alt+6");
  await page.getByRole("button", { name: "what guards caught" }).press("Enter");
  const caught = page.getByRole("region", { name: "What guards caught" });
  await expect(caught.getByRole("row", { name: /Addresses masked 1 e-mail address, before sending/ })).toBeVisible();
  await caught.getByRole("combobox", { name: "What was done" }).press("ArrowDown");
  await page.getByText("refused", { exact: true }).last().click();
  await expect(caught.getByText("Nothing.")).toBeVisible();
  await expectAccessibleInBoth(page, "what guards caught");
});

test("a guard before showing is edited where it stands; a bad pattern stays out, and what it refuses is said so on the page", async ({
  page,
  world,
}) => {
  await world.pace("instant");
  const rules = [
    sent({ kind: "words", words: ["moonbeam"] }, "refuse", { name: "No moonbeams", says: "Not about that." }),
    shown({ kind: "words", words: ["flour"] }, "mask", { name: "No flour" }),
  ];
  const slug = await world.makeApp("Refused", { prompt, model: "reed-deep", guards: rules });
  await page.goto(`${world.address}/apps/${slug}/build`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.fill("Good day");
  await message.press("Enter");
  await expect(page.getByRole("article", { name: "Turn 1, reply, complete" })).toBeVisible();
  await page.keyboard.press("Alt+6");
  const guards = page.getByRole("region", { name: "Guards before showing" });
  await guards.getByRole("button", { name: "No flour" }).press("Enter");
  await guards.getByRole("combobox", { name: "What the guard looks for" }).press("ArrowDown");
  await page.getByText("a pattern", { exact: true }).last().click();
  const pattern = guards.getByRole("textbox", { name: "Pattern (a regular expression)" });
  await pattern.fill("(a");
  await pattern.press("Enter");
  await expect(guards.getByText(/can't be looked for: unterminated group/)).toBeVisible();
  await pattern.fill("fl[a-z]+r");
  await pattern.press("Enter");
  await expect(guards).toContainText("No flour masks /fl[a-z]+r/");
  await expect(guards).toContainText("Holds text back for as long as the pattern goes on");
  await page.keyboard.press("Escape");

  await message.fill("A recipe for pancakes, please.");
  await message.press("Enter");
  await expect(page.getByText(/masked: \d+ match/)).toBeVisible();
  await page
    .getByRole("button", { name: /^Dispatch of the reply/ })
    .last()
    .press("Enter");
  await expect(page.getByText(/are not kept: a guard held back something/).first()).toBeVisible();
  await page.keyboard.press("Escape");
  await message.fill("And a moonbeam?");
  await message.press("Enter");
  await expect(page.getByText("refused: 1 word")).toBeVisible();
  // nobody was called
  await expect(page.getByRole("button", { name: /^Dispatch of the reply/ })).toHaveCount(2);

  await page.goto(`${world.address}/talk/${slug}`);
  await page.getByRole("textbox").fill("A moonbeam, please");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Not about that.", { exact: true })).toBeVisible();
});
