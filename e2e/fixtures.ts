import { type BrowserContext, test as base, expect, type Locator, type Page } from "@playwright/test";
import { standIns, World } from "./world";

/**
 * One world for all tests that leave it standing, and one browser context, which knows its scripts already: each test has
 * a page of its own in it, and leaves neither a cookie nor a stored word.
 */
export const test = base.extend<{ fresh: undefined }, { world: World; lasting: BrowserContext }>({
  lasting: [
    async ({ browser }, use) => {
      const lasting = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      await use(lasting);
      await lasting.close();
    },
    { scope: "worker" },
  ],
  context: async ({ lasting, world }, use) => {
    await use(lasting);
    const last = await lasting.newPage();
    const session = await lasting.newCDPSession(last);
    for (const page of lasting.pages()) if (page !== last) await page.close();
    for (const origin of [world.address, world.talk])
      await session.send("Storage.clearDataForOrigin", { origin, storageTypes: "cookies,local_storage,indexeddb" });
    await lasting.clearCookies();
    await lasting.clearPermissions();
    await last.close();
  },
  world: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants the pattern
    async ({}, use) => {
      const world = await World.make();
      await world.start();
      await use(world);
      await world.stop();
    },
    { scope: "worker" },
  ],
  // every test begins with a stand-in that does as it should, at once
  fresh: [
    async ({ world }, use) => {
      for (const name of standIns) await world.fault(null, name);
      await world.pace("instant");
      await world.forgetCalls();
      await use(undefined);
    },
    { auto: true },
  ],
});

/** Types a value in its place in a sentence, and has it take effect. */
export async function fillValue(field: Locator, text: string): Promise<void> {
  await field.fill(text);
  await field.press("Enter");
}

/** Build, as the tests work with it. */
export function buildOf(page: Page, world: World) {
  const rows = page.getByRole("article");
  return {
    open: async (slug: string, conversation = "new") => {
      await page.goto(`${world.address}/apps/${slug}/build?conversation=${conversation}`);
      await expect(page.getByRole("textbox", { name: "Message" })).toBeFocused();
    },
    message: page.getByRole("textbox", { name: "Message" }),
    say: async (text: string) => {
      await page.getByRole("textbox", { name: "Message" }).fill(text);
      await page.keyboard.press("Enter");
    },
    rows,
    /** The reply of a turn, in a state where one is given. */
    reply: (turn: number, state = "") => page.getByRole("article", { name: `Turn ${turn}, reply, ${state}` }),
    /** The calls of a tool in a turn, with what came of them where that is given. */
    calls: (turn: number, tool: string, words = "") =>
      page.getByRole("article", { name: `Turn ${turn}, tool ${tool}, ${words}` }),
    prompt: page.getByRole("article", { name: "System prompt" }),
    station: (name: string) => page.getByRole("list", { name: "Signal path" }).getByRole("button", { name }),
    sheet: page.getByRole("region", { name: "Conversation" }),
  };
}

export { allEvents, eventsOf, noLimits, type StandInName, standIns, textIn, World } from "./world";
export { expect };
