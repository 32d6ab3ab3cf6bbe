import type { Page } from "@playwright/test";
import { expectAccessible } from "./axe";
import { expect, noLimits, test, type World } from "./fixtures";

const lease = {
  name: "lease-of-the-teal.md",
  mimeType: "text/markdown",
  buffer: Buffer.from("# Lease\n\nThe mooring of the Teal is berth Merrowby until October.\n"),
};
const broken = { name: "broken.pdf", mimeType: "application/pdf", buffer: Buffer.from("%PDF-1.7\nbroken") };
const question = "Which berth is the mooring of the Teal?";

const own = (page: Page) => page.getByRole("region", { name: "Your documents" });

async function openPage(page: Page, world: World, slug: string): Promise<void> {
  await page.goto(`${world.address}/talk/${slug}`);
  await expect(own(page).getByText("Add a document")).toBeVisible();
}

async function ask(page: Page, text: string): Promise<void> {
  const before = await page.getByRole("article").count();
  await page.getByRole("textbox", { name: "Write a message" }).fill(text);
  await page.getByRole("button", { name: "Send" }).click();
  await expect(page.locator("article[data-role=app][data-state=complete]")).toHaveCount(before / 2 + 1);
}

test("the page takes documents of a visitor's own: picked, dropped, by address; nobody else is answered from them; forgotten with what was said of them", async ({
  page,
  browser,
  world,
}) => {
  await world.pace("instant");
  const documents = { from: ["page"], most: 3, addresses: "any" };
  const slug = await world.makeApp("Papers", { model: "reed-deep" }, { limits: noLimits, documents });
  await openPage(page, world, slug);
  await own(page).getByLabel("Add a document").setInputFiles([lease, broken]);
  const items = own(page).getByRole("listitem");
  await expect(items.filter({ hasText: "Lease of the teal" })).toHaveAttribute("data-state", "ready");
  await expect(items.filter({ hasText: "Broken" })).toContainText("can’t be read");
  await page.evaluate(() => {
    const dropped = new DataTransfer();
    dropped.items.add(new File(["# Pets\n\nDogs travel free.\n"], "pets.md", { type: "text/markdown" }));
    document.body.dispatchEvent(new DragEvent("drop", { dataTransfer: dropped, bubbles: true, cancelable: true }));
  });
  await expect(items).toHaveCount(3);
  await own(page).getByRole("button", { name: "Add an address" }).click();
  await page.getByRole("textbox", { name: "Address of a document" }).fill(`${world.address}/talk/module.js`);
  await page.keyboard.press("Enter");
  await expect(own(page).getByRole("status")).toHaveText("You may have 3 documents here. Forget one first.");
  await own(page).getByRole("button", { name: "Forget Broken" }).click();
  await own(page).getByRole("button", { name: "Forget Broken for good" }).press("Enter");
  await expect(items).toHaveCount(2);
  await expect(page.getByRole("textbox", { name: "Write a message" })).toBeFocused();
  await own(page).getByRole("button", { name: "Add an address" }).click();
  await page.getByRole("textbox", { name: "Address of a document" }).fill(`${world.address}/talk/module.js`);
  await page.keyboard.press("Enter");
  await expect(items).toHaveCount(3);
  await expect(items.filter({ hasNotText: /is being read/ })).toHaveCount(3);

  await ask(page, question);
  await expect(page.getByRole("article").last()).toContainText("berth Merrowby");
  // it stays this visitor's through a reload, light, dark and narrow
  await page.setViewportSize({ width: 320, height: 640 });
  await page.reload();
  await expect(items).toHaveCount(3);
  await expectAccessible(page, "light at 320");
  await page.emulateMedia({ colorScheme: "dark" });
  await expectAccessible(page, "dark at 320");
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBe(320);

  const other = await (await browser.newContext()).newPage();
  await openPage(other, world, slug);
  await ask(other, question);
  await expect(other.getByRole("article").last()).not.toContainText("Merrowby");
  await expect(own(other).getByRole("listitem")).toHaveCount(0);
  await other.context().close();

  await own(page).getByRole("button", { name: "Forget Lease of the teal" }).click();
  await expect(own(page)).toContainText("Forget it and the conversation in which it was looked through for good?");
  await own(page).getByRole("button", { name: "Keep it" }).click();
  await own(page).getByRole("button", { name: "Forget Lease of the teal" }).click();
  await own(page).getByRole("button", { name: "Forget Lease of the teal for good" }).click();
  await expect(items).toHaveCount(2);
  await expect(page.getByRole("article")).toHaveCount(0);
  await expect.poll(() => world.stands("Merrowby"), { timeout: 60_000 }).toBe(false);
});

test("Serve says from where documents of visitors are taken, how many and how large", async ({ page, world }) => {
  const slug = await world.makeApp("Taken");
  await page.goto(`${world.address}/apps/${slug}/serve`);
  await page.getByRole("button", { name: "limits, and what callers may see and choose" }).click();
  const taken = page.getByRole("group", { name: /^Documents of a visitor’s own/ });
  await expect(taken.getByRole("checkbox")).toHaveCount(2);
  await taken.getByRole("checkbox", { name: "the visitors' page" }).check();
  const access = async () =>
    (await world.bench<{ access: { documents: object } }>("GET", `apps/${slug}/serving`)).access.documents;
  await expect.poll(access).toMatchObject({ from: ["page"], most: 5, addresses: "public" });
  await page.goto(`${world.address}/talk/${slug}`);
  await expect(page.getByLabel("Add a document")).toBeVisible();
});
