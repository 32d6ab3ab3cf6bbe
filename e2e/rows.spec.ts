import type { Page } from "@playwright/test";
import { buildOf, expect, test, type World } from "./fixtures";

/** Counts what is drawn on a page from now on. */
async function countDrawn(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const counts: Record<string, number> = {};
    Object.assign(window, {
      finchCounts: counts,
      finchDrawn: (what: string) => {
        counts[what] = (counts[what] ?? 0) + 1;
      },
    });
  });
}

type Counted = Window & { finchCounts: Record<string, number> };

const drawn = (page: Page) => page.evaluate(() => ({ ...(window as unknown as Counted).finchCounts }));
const beginCount = (page: Page) =>
  page.evaluate(() => {
    const { finchCounts } = window as unknown as Counted;
    for (const what of Object.keys(finchCounts)) delete finchCounts[what];
  });

/** A conversation of so many turns. */
async function long(world: World, slug: string, turns: number): Promise<string> {
  let conversation: string | undefined;
  for (let turn = 1; turn <= turns; turn += 1) {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "one" },
      body: JSON.stringify({ message: `Turn number ${turn}`, conversation }),
    });
    conversation = ((await response.json()) as { conversation: string }).conversation;
  }
  return conversation ?? "";
}

test("a message sent and a long reply draw no other row again, and a keystroke draws the composer alone", async ({
  page,
  world,
}) => {
  test.setTimeout(300_000);
  const slug = await world.makeApp("Three hundred rows", { settings: {}, model: "reed-deep" });
  const conversation = await long(world, slug, 150);
  await countDrawn(page);
  const build = buildOf(page, world);
  await build.open(slug, conversation);
  await expect(build.reply(150, "complete")).toBeVisible();
  for (let more = page.getByRole("button", { name: "show earlier turns" }); (await more.count()) > 0; ) {
    const before = await page.getByRole("article").count();
    await more.click();
    await expect.poll(() => page.getByRole("article").count()).toBeGreaterThan(before);
    more = page.getByRole("button", { name: "show earlier turns" });
  }
  await expect(page.getByRole("article", { name: "Turn 1, visitor" })).toHaveCount(1);
  const { messages } = await world.bench<{ messages: { id: string; turn: number }[] }>(
    "GET",
    `conversations/${conversation}`,
  );
  const newest = new Set(messages.filter(({ turn }) => turn === 150).map(({ id }) => id));

  await beginCount(page);
  await page.keyboard.type("x");
  await expect(build.message).toHaveValue("x");
  const atKey = await drawn(page);
  expect(Object.keys(atKey)).toEqual(["composer"]);
  expect(atKey.composer).toBeLessThanOrEqual(2);

  await world.pace(400);
  await build.message.fill("Tell me a story about the ferry in 2000 words");
  await beginCount(page);
  await page.keyboard.press("Enter");
  await expect(build.reply(151, "complete")).toBeVisible({ timeout: 120_000 });
  const counts = await drawn(page);
  const own = await world.bench<{ messages: { id: string; turn: number }[] }>("GET", `conversations/${conversation}`);
  const asked = new Set(own.messages.filter(({ turn }) => turn === 151).map(({ id }) => id));
  const others = Object.entries(counts).filter(([what]) => {
    const [kind, id = ""] = what.split(" ");
    return kind === "row" && !newest.has(id) && !asked.has(id);
  });
  // what was the newest turn is so no more; no other row changed
  expect(others).toEqual([]);
  for (const id of newest) expect(counts[`row ${id}`] ?? 0).toBeLessThanOrEqual(2);
});
