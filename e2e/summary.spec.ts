import type { Page } from "@playwright/test";
import type { BenchLine } from "@/contract/conversations";
import type { Dispatch } from "@/contract/dispatches";
import { buildOf, expect, fillValue, standIns, test, type World } from "./fixtures";
import { appOn, ask } from "./memory-app";

/** What the bench reads of a conversation, once no summary of it is being made. */
async function settled(world: World, conversation: string): Promise<BenchLine> {
  const read = () => world.bench<BenchLine>("GET", `conversations/${conversation}`);
  await expect.poll(async () => (await read()).summarising?.state).not.toBe("making");
  return read();
}

test.describe("a name that was told ten turns ago", () => {
  for (const standIn of standIns)
    test(`is known by a running summary: ${standIn}`, async ({ world }) => {
      const slug = await appOn(world, standIn, { kind: "summary", turns: 3 });
      const { conversation } = await ask(world, slug, { message: "Hello, my name is Ivo." });
      for (let turn = 2; turn <= 11; turn += 1) {
        await ask(world, slug, { message: `Turn ${turn}: how long is the crossing to Brindle?`, conversation });
        await settled(world, conversation);
      }
      const asked = await ask(world, slug, { message: "What is my name?", conversation });
      expect(asked.text).toContain("Ivo");
      // not from the turn itself
      const { dispatches } = await world.bench<{ dispatches: Dispatch[] }>("GET", `replies/${asked.reply}/dispatches`);
      const { request, ledger } = dispatches[0] as Dispatch;
      expect(request.body).not.toContain("Hello, my name is Ivo.");
      expect(ledger?.entries.find(({ part }) => part === "summary")).toMatchObject({ carried: true });
    });
});

/** Chooses a summary in the sentence of the memory, made by another model, and the two newest turns in full. */
async function chooseSummary(page: Page): Promise<void> {
  await page.keyboard.press("Alt+3");
  await page.getByRole("combobox", { name: "What is carried" }).click();
  await page.getByText("a summary of what is older, and the newest", { exact: true }).click();
  await fillValue(page.getByRole("spinbutton", { name: "Turns that are carried in full" }), "2");
  await page.getByRole("combobox", { name: "Model that sums up" }).click();
  await page.getByText("pan-clear on Saltpan", { exact: true }).click();
  await page.keyboard.press("Alt+3");
}

const said = ["I'm Marit.", "We bring two bicycles.", "Which boat?", "And the dog?", "And parking?", "And on Sunday?"];

async function talk(page: Page, world: World, slug: string) {
  const build = buildOf(page, world);
  await build.open(slug);
  for (const [at, words] of said.entries()) {
    await build.say(words);
    await expect(build.reply(at + 1, "complete")).toBeVisible();
    // what is chosen holds from the second message on: an app begins with its own memory
    if (at === 0) await chooseSummary(page);
  }
  return { build, summary: page.getByRole("article", { name: /^Summary/ }) };
}

test("a summary stands in the sheet where what it covers stood, is put right, made anew, and goes along", async ({
  page,
  world,
}) => {
  await world.wire("Saltpan");
  const slug = await world.makeApp("Summed", { prompt: "You are the desk." });
  const { build, summary } = await talk(page, world, slug);
  await expect(summary).toContainText("The visitor's name is Marit.");
  await expect(summary).toContainText("pan-clear on Saltpan");
  await expect(summary).toHaveAttribute("data-carried", "true");
  const covered = page.getByRole("article", { name: "Turns 1 to 4, folded" });
  await expect(covered).toContainText("left out: the summary covers it");

  await build.say("What is my name?");
  await expect(build.reply(7, "complete")).toContainText("Marit");
  await expect(build.reply(7)).toContainText("with a summary to turn 4");
  expect((await world.calls()).at(-1)?.messages[0]?.content).toContain("in short:\n\nThe visitor's name is Marit.");

  await summary.hover();
  await summary.getByRole("button", { name: "correct" }).click();
  const words = summary.getByRole("textbox", { name: /^Summary of the turns up to 4/ });
  await words.fill("The visitor's name is Ada.");
  await page.keyboard.press("Enter");
  await expect(summary).toContainText("The visitor's name is Ada.");
  await expect(summary).toContainText("corrected by hand");
  await page.reload();
  await expect(summary).toContainText("The visitor's name is Ada.");

  await summary.getByRole("button", { name: /^Dispatch of the summary/ }).click();
  const dispatch = page.getByRole("region", { name: "Dispatch" });
  await expect(dispatch).toContainText("pan-clear on Saltpan answered with status 200");
  await dispatch.getByRole("button", { name: "fold" }).click();

  await summary.hover();
  await summary.getByRole("button", { name: "make it anew" }).click();
  await expect(summary).toContainText("The visitor's name is Marit.");
  await expect(summary).toHaveAccessibleName("Summary of the turns up to 5");

  // the ledger says it before anything is sent
  await build.message.fill("And my name?");
  await page.getByRole("button", { name: "ledger" }).click();
  const ledger = page.getByRole("region", { name: "What would be sent" });
  await expect(ledger.getByRole("row", { name: /Summary of the turns up to 5 \d+ in/ })).toBeVisible();
});

test("another prompt makes a summary stale, which it says, and is used until it is made anew", async ({
  page,
  world,
}) => {
  await world.wire("Saltpan");
  const slug = await world.makeApp("Stale", { prompt: "You are the desk." });
  const { build, summary } = await talk(page, world, slug);
  await expect(summary).toContainText("Marit");
  await page.keyboard.press("Alt+3");
  await page.getByRole("button", { name: "the usual prompt" }).click();
  await page
    .getByRole("textbox", { name: "Prompt for summaries" })
    .fill("Sum up this conversation in at most 30 words.");
  await page.keyboard.press("Alt+3");
  await expect(summary).toContainText("made by another model or prompt than is set now");
  await build.say("And tomorrow?");
  await expect(build.reply(7, "complete")).toContainText("with a summary to turn 4");
  await expect(summary).not.toContainText("made by another model or prompt than is set now");
  await expect(summary).toContainText("Marit");
});

test("a summary that fails is told in its place, the talk goes on without it, and it is tried again", async ({
  page,
  world,
}) => {
  await world.wire("Saltpan");
  await world.fault({ fault: "status", status: 500 }, "Saltpan");
  const slug = await world.makeApp("Failing", { prompt: "You are the desk." });
  const { build, summary } = await talk(page, world, slug);
  await expect(summary.getByRole("alert")).toContainText("The last turns were not summed up");
  await build.say("What is my name?");
  await expect(build.reply(7, "complete")).toContainText("Marit");
  await expect(build.reply(7)).toContainText("without a summary");
  // each reply has it tried again: that one fails too before the provider is well
  await settled(world, new URL(page.url()).searchParams.get("conversation") ?? "");
  await world.fault(null, "Saltpan");
  await expect(summary.getByRole("alert")).toContainText("The last turns were not summed up");
  await summary.getByRole("button", { name: "try again now" }).click();
  await expect(summary).toContainText("The visitor's name is Marit.");
  await expect(summary.getByRole("alert")).toBeHidden();
});

test("a summary that comes late is waited for by nobody, and can be stopped", async ({ page, world }) => {
  await world.wire("Saltpan");
  await world.fault({ fault: "slow-start", ms: 20_000 }, "Saltpan");
  const slug = await world.makeApp("Late", { prompt: "You are the desk." });
  const { build, summary } = await talk(page, world, slug);
  await expect(summary.getByRole("status")).toContainText("The turns up to 4 are being summed up.");
  await build.say("What is my name?");
  await expect(build.reply(7, "complete")).toContainText("Marit");
  await expect(build.reply(7)).toContainText("without a summary");
  await summary.getByRole("button", { name: "stop" }).click();
  await expect(summary.getByRole("status")).toBeHidden();
  await expect(summary).toContainText("None yet that fits");
});
