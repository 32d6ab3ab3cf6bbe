import type { Content } from "@/core/revision/content";
import { buildOf, expect, test, type World } from "./fixtures";

/** Stores a draft as a tab does that read it with a hash. */
async function store(world: World, slug: string, content: Content, draftHash: string) {
  const response = await fetch(`${world.address}/api/bench/apps/${slug}/draft`, {
    method: "PUT",
    body: JSON.stringify({ content, draftHash }),
  });
  return { status: response.status, told: await response.json() };
}

const readDraft = (world: World, slug: string) =>
  world.bench<{ draft: Content; draftHash: string }>("GET", `apps/${slug}`);

test("two edits of one draft both stay where they are of different parts, and else the second is told", async ({
  world,
}) => {
  const slug = await world.makeApp("Two edits");
  const { draft, draftHash } = await readDraft(world, slug);
  expect((await store(world, slug, { ...draft, prompt: "One." }, draftHash)).status).toBe(200);
  expect((await store(world, slug, { ...draft, memory: { kind: "nothing" } }, draftHash)).status).toBe(200);
  const both = await readDraft(world, slug);
  expect(both.draft).toMatchObject({ prompt: "One.", memory: { kind: "nothing" } });

  const second = await store(world, slug, { ...draft, prompt: "Two." }, draftHash);
  expect([second.status, second.told]).toEqual([
    409,
    expect.objectContaining({
      kind: "conflict",
      detail: "The system prompt of Two edits's draft was changed in another place meanwhile.",
      draft: { content: both.draft, hash: both.draftHash, parts: ["system prompt"] },
    }),
  ]);
  expect((await readDraft(world, slug)).draftHash).toBe(both.draftHash);
});

test("two tabs on one draft see each other's edits, and where both changed one part the page shows both", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Two tabs");
  const [build, tab] = [buildOf(page, world), await page.context().newPage()];
  const other = buildOf(tab, world);
  await build.open(slug);
  await other.open(slug);
  const write = async (at: typeof build, of: typeof page, text: string) => {
    await at.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
    await of.getByRole("textbox", { name: "System prompt" }).fill(text);
    await of.keyboard.press("Escape");
  };
  /** Has a tab edit the prompt while what it stores is held up, and the other stores its own meanwhile. */
  const writeBoth = async (slow: [typeof build, typeof page, string], fast: [typeof build, typeof page, string]) => {
    let release = () => {};
    const held = new Promise<void>((resolve) => {
      release = resolve;
    });
    await slow[1].route("**/draft", async (route) => {
      await held;
      await route.continue();
    });
    const asks = slow[1].waitForRequest("**/draft");
    await write(...slow);
    await asks;
    await write(...fast);
    await expect.poll(promptOf).toBe(fast[2]);
    const answer = slow[1].waitForResponse("**/draft");
    release();
    expect((await answer).status()).toBe(409);
    await slow[1].unroute("**/draft");
  };
  const promptOf = async () => (await readDraft(world, slug)).draft.prompt;
  await write(build, page, "You are the first desk.");
  await expect(other.prompt).toContainText("You are the first desk.");

  await tab.keyboard.press("Alt+3");
  await tab.getByRole("combobox", { name: "What is carried" }).click();
  await tab.getByText("no turns", { exact: true }).click();
  await expect(build.station("Memory")).toContainText("no turns");
  expect((await readDraft(world, slug)).draft).toMatchObject({
    prompt: "You are the first desk.",
    memory: { kind: "nothing" },
  });

  await writeBoth([other, tab, "You are the night desk."], [build, page, "You are the day desk."]);
  const both = tab.getByRole("alert", { name: "Two edits of the draft" });
  await expect(both).toContainText("The system prompt of the draft was changed here and in another place.");
  await expect(both).toContainText("night");
  await expect(both).toContainText("day");
  await expect(other.prompt).toContainText("You are the night desk.");
  expect(await promptOf()).toBe("You are the day desk.");
  // nothing is asked until one is chosen, and what is written stays
  await other.say("Hello");
  await expect(tab.getByRole("alert").filter({ hasText: "The draft is not stored." })).toBeVisible();
  await expect(other.message).toHaveValue("Hello");
  await tab.getByRole("button", { name: "keep mine" }).click();
  await expect(both).toHaveCount(0);
  await expect.poll(promptOf).toBe("You are the night desk.");
  await expect(build.prompt).toContainText("You are the night desk.");

  await writeBoth([build, page, "You are the dawn desk."], [other, tab, "You are the noon desk."]);
  await page.getByRole("button", { name: "take the other" }).click();
  await expect(build.prompt).toContainText("You are the noon desk.");
  expect((await readDraft(world, slug)).draft).toMatchObject({
    prompt: "You are the noon desk.",
    memory: { kind: "nothing" },
  });
  await tab.close();
});

test("a provider that is renamed keeps what is known of it, and another of its old name gets nothing of that", async ({
  page,
  world,
}) => {
  const id = await world.wire("Saltpan");
  const memory = { kind: "everything", apart: true } as const;
  const slug = await world.makeApp("Renamed", { provider: id, model: "pan-clear", memory });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("I'm on the 9:40 with two bicycles");
  await expect(build.reply(1, "complete")).toBeVisible();
  await world.bench("PATCH", `providers/${id}`, { name: "Brine" });
  const about = (await (await fetch(`${world.at("Saltpan")}/standin/about`)).json()) as object;
  const namesake = await world.bench<{ slug: string }>("POST", "providers", {
    ...about,
    address: world.at("Saltpan"),
  });
  expect(namesake.slug).toMatch(/^saltpan-\d+$/);

  await page.reload();
  await build.say("Which boat am I on, and with how many bicycles?");
  await expect(build.reply(2, "complete")).toContainText("two bicycles");
  await page.keyboard.press("Alt+6");
  await expect(page.getByRole("region", { name: "Reply" })).toContainText("with pan-clear on Brine");
  // the one of the old name is another model: its memory is empty
  const { draft, draftHash } = await readDraft(world, slug);
  await store(world, slug, { ...draft, provider: namesake.slug }, draftHash);
  await page.reload();
  await build.say("Which boat am I on?");
  await expect(build.reply(3, "complete")).toBeVisible();
  await expect(build.reply(3, "complete")).not.toContainText("9:40");
});
