import { readFileSync } from "node:fs";
import type { Page } from "@playwright/test";
import { buildOf, expect, test, type World } from "./fixtures";

/** Says something to an app as a visitor, and waits for the whole answer. */
async function say(
  world: World,
  slug: string,
  message: string,
  more: object = {},
  headers: Record<string, string> = {},
) {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada", ...headers },
    body: JSON.stringify({ message, ...more }),
  });
  return (await response.json()) as { reply: string; conversation: string; message: string };
}

/** Imports lines into an app, and waits until they are stored. */
async function imported(world: World, slug: string, lines: object[]) {
  const file = Buffer.from(lines.map((line) => JSON.stringify(line)).join("\n"));
  const { id } = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, {
    name: "lines.jsonl",
    as: "jsonl",
    bytes: file.length,
  });
  await fetch(`${world.address}/api/bench/jobs/${id}/parts?from=0`, { method: "PUT", body: new Uint8Array(file) });
  const stateIs = (state: string) =>
    expect
      .poll(async () => (await world.bench<{ state: string }>("GET", `jobs/${id}`)).state, { timeout: 60_000 })
      .toBe(state);
  await stateIs("waiting");
  await world.bench("POST", `jobs/${id}/store`);
  await stateIs("done");
}

/** The lines of so many conversations of one turn. */
const shortOnes = (count: number) =>
  Array.from({ length: count }, (_, at) =>
    (["visitor", "app"] as const).map((role) => ({ conversation: at + 1, role, text: `${role} ${at + 1}` })),
  ).flat();

const rowsOf = (page: Page) => page.getByRole("main").getByRole("listitem");
const openHistory = (page: Page, world: World, slug: string, filter = "") =>
  page.goto(`${world.address}/apps/${slug}/history${filter}`);

test("the filter is a sentence that stands in the address; words are found as one types, and marked", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Filtered");
  const boats = await say(world, slug, "Which boats take two bicycles on Sunday?");
  await say(world, slug, "And a dog?", { conversation: boats.conversation });
  await say(world, slug, "And the bicycle trailer?", { conversation: boats.conversation });
  await say(world, slug, "Good morning", {}, { "finch-client": "desk-7" });
  await world.fault({ fault: "status", status: 503, calls: 1 });
  await say(world, slug, "Is there a late boat?");
  await openHistory(page, world, slug);
  const rows = rowsOf(page);
  await expect(rows).toHaveText([/Is there a late boat/, /Good morning.*HTTP · desk-7/, /Which boats.*3 turns/s]);
  await expect(rows.nth(0).getByRole("img")).toHaveAttribute("aria-label", /failed/);
  await page.keyboard.press("/");
  await page.keyboard.type("bicycle");
  await expect(rows).toHaveCount(1);
  await expect(page).toHaveURL(/words=bicycle/);
  await expect(page.getByRole("status").first()).toContainText("1 of 3 conversations");
  await expect(rows.nth(0).getByRole("img")).toHaveAttribute("aria-label", /found in 2 turns|found in 3 turns/);
  await rows
    .nth(0)
    .getByRole("button", { name: /Which boats/ })
    .click();
  await expect(rows.nth(0).locator("mark").first()).toHaveText(/bicycle/i);
  // the address alone brings it back
  await page.reload();
  await expect(page.getByRole("textbox", { name: "Words" })).toHaveValue("bicycle");
  await expect(rows).toHaveCount(1);
  await openHistory(page, world, slug, "?ended=failed");
  await expect(rows).toHaveText([/Is there a late boat/]);
  await openHistory(page, world, slug, "?origin=http&client=desk-7");
  await expect(rows).toHaveText([/Good morning/]);
  await page.getByRole("combobox", { name: "Origin" }).click();
  await page.getByTitle("any origin").click();
  await expect(rows).toHaveCount(3);
  await page.getByRole("textbox", { name: "Words" }).fill("nothing of the kind");
  await expect(page.getByText("Nothing is found.")).toBeVisible();
  await page.getByRole("button", { name: "show all" }).click();
  await expect(rows).toHaveCount(3);
});

test("is read in place: takes, marks, a title, tags and a note; looking changes nothing for the visitor", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Read");
  const first = await say(world, slug, "Tell me a joke", {}, { "finch-visitor": "ada" });
  await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ again: first.message }),
  });
  const rated = await fetch(`${world.address}/api/apps/${slug}/replies/${first.reply}/rating`, {
    method: "PUT",
    headers: { "finch-visitor": "ada" },
    body: '{"rating":"bad"}',
  });
  expect(rated.status).toBe(204);
  await openHistory(page, world, slug);
  const row = rowsOf(page).first();
  await row.getByRole("button", { name: /Tell me a joke/ }).click();
  await row.getByRole("button", { name: "Read take 1" }).click();
  await expect(row).toContainText("visitor: bad");
  await row.getByRole("button", { name: "good", exact: true }).click();
  await expect(row.getByRole("button", { name: "good", exact: true })).toHaveAttribute("aria-pressed", "true");
  const title = row.getByRole("textbox", { name: "Title" });
  await title.fill("A joke, twice");
  await title.press("Enter");
  await expect(row.getByRole("button", { name: /^A joke, twice/ })).toBeVisible();
  const tags = row.getByRole("textbox", { name: "Tags, with commas between" });
  await tags.fill("fun, twice");
  await tags.press("Enter");
  await row.getByRole("textbox", { name: "Note" }).fill("Ada was not amused.");
  await row.getByRole("textbox", { name: "Note" }).blur();
  await openHistory(page, world, slug, "?tag=fun&rated=bad");
  await expect(rowsOf(page)).toHaveText([/A joke, twice.*marked/]);
  // the visitor goes on from the take that was shown
  const go = await say(world, slug, "Say that again", { conversation: first.conversation }, { "finch-visitor": "ada" });
  const { messages } = await world.bench<{ messages: { id: string; siblings: { id: string }[] }[] }>(
    "GET",
    `conversations/${go.conversation}`,
  );
  expect(messages[1]?.id).toBe(messages[1]?.siblings[1]?.id);
});

test("several are chosen by key, deleted and brought back; a reply that arrives in one is stopped first", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Chosen");
  for (const text of ["One", "Two", "Three"]) await say(world, slug, text);
  await world.pace(20);
  const { conversation } = await world.bench<{ conversation: string }>("POST", `apps/${slug}/replies`, {
    message: "Tell me a long story",
  });
  await openHistory(page, world, slug);
  const rows = rowsOf(page);
  await expect(rows).toHaveCount(4);
  await rows
    .nth(0)
    .getByRole("button", { name: /Tell me/ })
    .focus();
  await page.keyboard.press("Space");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Space");
  await expect(page.getByText("2 conversations chosen")).toBeVisible();
  await page.getByRole("button", { name: "delete", exact: true }).click();
  await expect(rows).toHaveText([/Three/, /One/]);
  await world.pace("instant");
  await page.getByRole("button", { name: "undo" }).click();
  await expect(rows).toHaveText([/Tell me/, /Three/, /Two/, /One/]);
  const { messages } = await world.bench<{ messages: { state?: string }[] }>("GET", `conversations/${conversation}`);
  expect(messages.at(-1)?.state).toBe("stopped");
  await page.getByRole("button", { name: "choose them" }).click();
  await expect(page.getByText("4 conversations chosen")).toBeVisible();
});

test("what was deleted is found after a reload too, and brought back for a day", async ({ page, world }) => {
  const slug = await world.makeApp("Regretted");
  for (const text of ["Kept", "Deleted by mistake"]) await say(world, slug, text);
  await openHistory(page, world, slug);
  const rows = rowsOf(page);
  await rows.nth(0).getByRole("checkbox").check();
  await page.getByRole("button", { name: "delete", exact: true }).click();
  await expect(rows).toHaveText([/Kept/]);
  await page.reload();
  await expect(rows).toHaveText([/Kept/]);
  await page.getByRole("combobox", { name: "Which" }).click();
  await page.getByTitle("deleted conversations", { exact: true }).click();
  await expect(rows).toHaveText([/Deleted by mistake/]);
  await rows
    .nth(0)
    .getByRole("button", { name: /Deleted by mistake/ })
    .click();
  await rows.nth(0).getByRole("button", { name: "restore it" }).click();
  await expect(page.getByText("Nothing is found.")).toBeVisible();
  await page.getByRole("button", { name: "show all" }).click();
  await expect(rows).toHaveText([/Deleted by mistake/, /Kept/]);
});

test("older conversations come as one scrolls", async ({ page, world }) => {
  const slug = await world.makeApp("Scrolled");
  for (let each = 1; each <= 47; each++) await say(world, slug, `Number ${each}`);
  await openHistory(page, world, slug);
  await expect(rowsOf(page).first()).toContainText("Number 47");
  await expect(async () => {
    await page.mouse.wheel(0, 2_000);
    await expect(rowsOf(page).last()).toContainText("Number 1 ", { timeout: 500 });
  }).toPass();
  expect(await rowsOf(page).count()).toBeLessThan(40);
});

test("a long list is gone through both ways by key; of it, only what is about the screen is read again", async ({
  page,
  world,
}) => {
  test.slow();
  const slug = await world.makeApp("Long list");
  await imported(world, slug, shortOnes(260));
  await openHistory(page, world, slug);
  await expect(page.getByText("260 conversations.")).toBeVisible();
  const first = await rowsOf(page).first().innerText();
  await rowsOf(page).first().locator("[data-open]").focus();
  await expect(async () => {
    await page.keyboard.press("End");
    await expect(page.locator("li[aria-posinset='260'] [data-open]")).toBeFocused({ timeout: 500 });
  }).toPass();
  const read: string[] = [];
  page.on("request", (request) => {
    if (/\/conversations\?/.test(request.url())) read.push(request.url());
  });
  await say(world, slug, "A new one");
  await expect(page.getByText("261 conversations.")).toBeVisible();
  await expect(page.getByRole("main")).toHaveAttribute("aria-busy", "false");
  // whether it is read once for the message and its reply, or for each
  const pages = new Set(read).size;
  expect(pages).toBeGreaterThan(0);
  expect(pages).toBeLessThanOrEqual(10);
  await page.keyboard.press("Home");
  await expect(rowsOf(page).first().locator("[data-open]")).toBeFocused();
  await expect(rowsOf(page).first()).toContainText("A new one");
  await expect(rowsOf(page).nth(1)).toHaveText(first, { useInnerText: true });
});

test("what can't be read of a list is said once, and read again by a click", async ({ page, world }) => {
  const slug = await world.makeApp("Broken list");
  await imported(world, slug, shortOnes(60));
  let tries = 0;
  // from the beginning: how many pages are wanted at once depends on when the rows have their height
  await page.route(/\/conversations\?.*before=/, (route) => {
    tries += 1;
    return route.abort();
  });
  await openHistory(page, world, slug);
  await expect(page.getByText("60 conversations.")).toBeVisible();
  await rowsOf(page).first().locator("[data-open]").focus();
  await page.keyboard.press("End");
  const again = page.getByRole("button", { name: "read it again" });
  await expect(again).toBeVisible();
  await page.unroute(/\/conversations\?.*before=/);
  expect(tries).toBe(1);
  await again.click();
  await expect(again).toBeHidden();
  await rowsOf(page).last().locator("[data-open]").focus();
  await expect(async () => {
    await page.keyboard.press("End");
    await expect(page.locator("li[aria-posinset='60'] [data-open]")).toBeFocused({ timeout: 500 });
  }).toPass();
});

test("a file is checked before anything is stored: a bad line is named, a good file is imported whole", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Imported");
  const first = await say(world, slug, "Hello", {}, { "finch-visitor": "ada" });
  await world.bench("POST", `apps/${slug}/replies`, { again: first.message });
  await openHistory(page, world, slug);
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "JSON Lines" }).click();
  const file = readFileSync(await (await download).path(), "utf8");
  expect(file.trim().split("\n")).toHaveLength(3);
  await page.getByRole("button", { name: "import a file" }).click();
  const sheet = page.getByRole("region", { name: "Import" });
  const give = (text: string, name = "talk.jsonl") =>
    page
      .getByLabel("File to import")
      .setInputFiles({ name, mimeType: "application/octet-stream", buffer: Buffer.from(text) });
  await give('{"role":"visitor","text":"a"}\n{"role":"visitor","text":"b"}\nnope');
  await expect(sheet.getByRole("alert")).toContainText("2 lines do not fit, and nothing was imported");
  await expect(sheet.getByRole("row", { name: /line 3/ })).toContainText("it is not JSON");
  await expect(rowsOf(page)).toHaveCount(1);
  await page.getByRole("combobox", { name: "Form of the file" }).click();
  await page.getByTitle("two columns, a question and its answer").click();
  await give("question,answer\nWhen?,At nine.\nWhere?,At the quay.\n", "answers.csv");
  await expect(sheet).toContainText("2 conversations, 4 messages");
  await sheet.getByRole("button", { name: "Import 2 conversations" }).click();
  await expect(sheet).toContainText("All of it is here: 2 conversations.");
  await expect(rowsOf(page)).toHaveCount(3);
  // what was exported comes back from an app that is empty, where it is imported
  const empty = await world.makeApp("Empty");
  await openHistory(page, world, empty);
  await page.getByRole("button", { name: "import a file" }).click();
  await give(file);
  await sheet.getByRole("button", { name: "Import 1 conversation", exact: true }).click();
  await expect(sheet).toContainText("All of it is here");
  expect(await (await fetch(`${world.address}/api/bench/apps/${empty}/export?as=jsonl`)).text()).toBe(
    file.replace('"origin":"http"', '"origin":"imported"'),
  );
  // as many as can be chosen are named in one address
  const ids = Array.from({ length: 2_000 }, (_, at) => `con_${String(at).padStart(26, "0")}`);
  const chosen = await fetch(
    `${world.address}/api/bench/apps/${slug}/export?as=jsonl&ids=${[...ids, first.conversation]}`,
  );
  expect(await chosen.text()).toBe(file);
});

test("a conversation is said again on a draft that forbids lists: what it takes first, then what changed", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Again", { prompt: "You are Quay Desk of Saltmarsh Ferry." });
  const build = buildOf(page, world);
  await build.open(slug);
  const said = ["I'm Ivo", "Which boats go to Brindle on Sunday?", "What is my name?"];
  for (const [at, text] of said.entries()) {
    await build.say(text);
    await expect(build.reply(at + 1, "complete")).toBeVisible();
  }
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await page
    .getByRole("textbox", { name: "System prompt" })
    .fill("You are Quay Desk of Saltmarsh Ferry. Use no lists.");
  await build.message.focus();
  await page.keyboard.press("Alt+g");
  await expect(page.getByText(/Says 3 messages again on the draft/)).toContainText(/€0\.\d+/);
  await page.getByRole("button", { name: "Say it again", exact: true }).click();
  await expect(page.getByText(/Said 3 of 3 messages again/)).toBeVisible();
  await page.getByRole("button", { name: "read it beside the first" }).click();
  const beside = page.getByRole("region", { name: "Side by side" });
  await expect(beside.getByText("said again on revision")).toBeVisible();
  await expect(beside.getByText(/[1-3] of 3 replies differs?/)).toBeVisible();
  await expect(beside.locator("del").first()).toBeVisible();
  const { conversations } = await world.bench<{ conversations: { id: string; origin: string; turnCount: number }[] }>(
    "GET",
    `apps/${slug}/conversations?origin=job`,
  );
  expect(conversations).toMatchObject([{ turnCount: 3 }]);
  const { messages } = await world.bench<{ messages: { pieces: { text: string }[] }[] }>(
    "GET",
    `conversations/${conversations[0]?.id}`,
  );
  expect(messages[3]?.pieces[0]?.text).not.toMatch(/^[-*] /m);
  expect(messages[5]?.pieces[0]?.text).toContain("Ivo");
});

test("a job shows in the bar while it runs, is stopped there, stops at its price, and goes on after a crash", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Jobs");
  let conversation: string | undefined;
  for (let turn = 1; turn <= 6; turn++)
    ({ conversation } = await say(world, slug, `Tell me a joke, number ${turn}`, { conversation }));
  await world.pace(30);
  await openHistory(page, world, slug);
  const begin = (body: object = {}) =>
    world.bench<{ id: string }>("POST", `conversations/${conversation}/said-again`, body);
  const jobOf = (id: string) =>
    world.bench<{ state: string; done: number; problem: { kind: string } | null; work: { into?: string } }>(
      "GET",
      `jobs/${id}`,
    );
  const first = await begin();
  await page.getByRole("button", { name: /^Stop: says again/ }).click();
  await expect.poll(async () => (await jobOf(first.id)).state).toBe("stopped");
  await expect(page.getByRole("button", { name: /^Stop: says again/ })).toHaveCount(0);
  await world.pace("instant");
  const dear = await begin({ mostPrice: 0.000_001 });
  await expect.poll(async () => (await jobOf(dear.id)).state).toBe("failed");
  expect(await jobOf(dear.id)).toMatchObject({ done: 1, problem: { kind: "over-limit" } });
  await world.pace(40);
  const crashed = await begin();
  await expect.poll(async () => (await jobOf(crashed.id)).done).toBeGreaterThan(0);
  await world.killWeb();
  await world.pace("instant");
  await world.startWeb();
  await expect.poll(async () => (await jobOf(crashed.id)).state).toBe("done");
  const { work, done } = await jobOf(crashed.id);
  const { messages } = await world.bench<{ messages: { turn: number; role: string; state?: string }[] }>(
    "GET",
    `conversations/${work.into}`,
  );
  expect(done).toBe(6);
  expect(messages.map(({ turn, role }) => `${turn} ${role}`)).toEqual(
    [1, 2, 3, 4, 5, 6].flatMap((turn) => [`${turn} visitor`, `${turn} app`]),
  );
  expect(messages.filter(({ role }) => role === "app").every(({ state }) => state === "complete")).toBe(true);
});

test("a conversation of 5,000 messages opens at its end, is scrolled both ways, and gives a word in its middle", async ({
  page,
  world,
}) => {
  test.slow();
  const slug = await world.makeApp("Long");
  const turns = Array.from({ length: 2_500 }, (_, at) => [
    { role: "visitor", text: at === 1_249 ? "And the lighthouse?" : `Question ${at + 1}` },
    { role: "app", text: `Answer ${at + 1}. `.repeat(1 + (at % 7)) },
  ]).flat();
  await imported(world, slug, turns);
  await openHistory(page, world, slug);
  const row = rowsOf(page).first();
  await row.getByRole("button", { name: /Question 1/ }).click();
  const turnsOf = row.getByRole("region", { name: "Its turns" });
  await expect(turnsOf.getByText(/Question 2500$/)).toBeVisible();
  await turnsOf.focus();
  await page.keyboard.press("Home");
  await expect(turnsOf.getByText(/Question 1$/)).toBeVisible();
  expect(await turnsOf.getByRole("article").count()).toBeLessThan(60);
  await page.keyboard.press("End");
  await expect(turnsOf.getByText(/Question 2500$/)).toBeVisible();
  await page.getByRole("textbox", { name: "Words" }).fill("lighthouse");
  await expect(turnsOf.locator("mark")).toHaveText("lighthouse");
  await expect(turnsOf).toContainText("1,249 turns without the words");
  // going on from it, the end is there at once, and carries what the memory says
  await row.getByRole("button", { name: "Continue from here" }).click();
  await expect(page.getByRole("article", { name: "Turn 2500, visitor" })).toBeVisible();
});
