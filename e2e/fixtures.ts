import { test as base, expect, type Locator, type Page } from "@playwright/test";
import { standIns, World } from "./world";

/** One world for all tests that leave it standing. */
export const test = base.extend<{ fresh: undefined }, { world: World }>({
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
