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
  // what a provider counts teaches the estimates, which would change figures of rows that nothing else changes
  await world.fault({ fault: "no-usage" });
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
  /** What each row says, by the id of its message, in the order of the line. */
  const said = async () => {
    const ids: string[] = [];
    for (const from of [1, 51, 101, 151]) {
      const { messages } = await world.bench<{ messages: { id: string }[] }>(
        "GET",
        `conversations/${conversation}/turns?from=${from}&count=50`,
      );
      ids.push(...messages.map(({ id }) => id));
    }
    // the first is the prompt
    const texts = (await page.getByRole("article").allInnerTexts()).slice(1);
    return new Map(ids.map((id, at) => [id, texts[at]]));
  };

  await build.message.focus();
  await beginCount(page);
  await page.keyboard.type("x");
  await expect(build.message).toHaveValue("x");
  const atKey = await drawn(page);
  expect(Object.keys(atKey)).toEqual(["composer"]);
  expect(atKey.composer).toBeLessThanOrEqual(2);

  await world.pace(400);
  await build.message.fill("Tell me a story about the ferry in 2000 words");
  const before = await said();
  expect(before.size).toBe(300);
  await beginCount(page);
  await page.keyboard.press("Enter");
  await expect(build.reply(151, "complete")).toBeVisible({ timeout: 120_000 });
  const counts = await drawn(page);
  const after = await said();
  const same = [...before].filter(([id, text]) => after.get(id) === text).map(([id]) => id);
  expect(same.length).toBeGreaterThan(200);
  // the newest turn is the newest no more, which its rows know and do not say
  const newest = [...before.keys()].slice(-2);
  expect(same.filter((id) => !newest.includes(id) && (counts[`row ${id}`] ?? 0) > 0)).toEqual([]);
  expect(newest.filter((id) => (counts[`row ${id}`] ?? 0) > 2)).toEqual([]);
});
