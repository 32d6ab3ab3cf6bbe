import { buildOf, expect, fillValue, test } from "./fixtures";

const story = "Tell me a story about the ferry";

test("an app knows what it was told two turns later, and nothing of it in a new conversation", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Memory");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("I'm on the 9:40 with two bicycles");
  await expect(build.reply(1, "complete")).toContainText("9:40");
  await build.say("What does a dog cost?");
  await expect(build.reply(2, "complete")).toContainText("Dogs travel free");
  await build.say("Which boat am I on, and how many bicycles do I have?");
  await expect(build.reply(3, "complete")).toContainText("9:40");
  await expect(build.reply(3, "complete")).toContainText("two bicycles");

  await page.getByRole("button", { name: "new conversation" }).click();
  await expect(build.sheet).toContainText("No turns yet");
  await build.say("Which boat am I on, and how many bicycles do I have?");
  await expect(build.reply(1, "complete")).toContainText("You have not told me which sailing you are on");
});

test("text shows bit by bit, and the signal path fills with the times it took", async ({ page, world }) => {
  const slug = await world.makeApp("Bits");
  const build = buildOf(page, world);
  await world.pace(60);
  await build.open(slug);
  await build.say(story);
  const reply = build.reply(1);
  await expect(reply).toContainText("The crossing");
  const early = (await reply.innerText()).length;
  await expect.poll(async () => (await reply.innerText()).length).toBeGreaterThan(early + 60);
  await expect(build.station("Reply")).toContainText("arriving");
  await expect(build.station("Visitor")).toContainText(/\d ms/);
  await expect(build.station("Memory")).toContainText(/\d ms/);
  await page.keyboard.press("Escape");
  await expect(build.reply(1, "stopped")).toContainText("stopped");
  await expect(build.station("Model")).toContainText("first text");
});

test("a reload in the middle of a long reply loses and repeats nothing, and a second tab shows the same", async ({
  page,
  world,
  context,
}) => {
  const slug = await world.makeApp("Reload", { settings: {} });
  const build = buildOf(page, world);
  await world.pace(40);
  await build.open(slug);
  await build.say("Tell me a story about the ferry in 500 words");
  await expect(build.reply(1)).toContainText("The crossing");
  const other = await context.newPage();
  await other.goto(page.url());
  const second = buildOf(other, world);
  await expect(second.reply(1, "arriving")).toBeVisible();
  await page.reload();
  await expect(build.reply(1, "arriving")).toBeVisible();
  await page.reload();
  await expect(build.reply(1, "arriving")).toBeVisible();
  await world.hurry();
  await expect(build.reply(1, "complete")).toBeVisible();
  await expect(second.reply(1, "complete")).toBeVisible();

  const said = (await world.calls()).at(-1)?.said ?? "";
  const words = (text: string) => text.replace(/[#*\s]+/g, " ").trim();
  const conversation = new URL(page.url()).searchParams.get("conversation");
  const stored = await world.bench<{ messages: { pieces: { text: string }[] }[] }>(
    "GET",
    `conversations/${conversation}`,
  );
  expect(stored.messages[1]?.pieces[0]?.text).toBe(said);
  for (const each of [build, second]) expect(words(await each.reply(1).innerText())).toContain(words(said));
});

test("eight replies arrive in one tab, and Stop still acts at once", async ({ page, world }) => {
  const slug = await world.makeApp("Eight", { settings: {} });
  const build = buildOf(page, world);
  await world.pace(12);
  await build.open(slug);
  const started: string[] = [];
  for (let each = 0; each < 8; each++) {
    await build.say("Tell me a story about the ferry in 1500 words");
    await expect(build.reply(1, "arriving")).toContainText("The crossing");
    started.push(new URL(page.url()).searchParams.get("conversation") ?? "");
    if (each < 7) {
      await page.getByRole("button", { name: "new conversation" }).click();
      await expect(build.sheet).toContainText("No turns yet");
    }
  }
  expect(new Set(started).size).toBe(8);
  const arriving = (await world.calls()).slice(-8);
  expect(arriving.every(({ left, said, text }) => !left && said.length < text.length)).toBe(true);
  await page.getByRole("button", { name: "Stop", exact: true }).click();
  await expect(build.reply(1, "stopped")).toBeVisible({ timeout: 5_000 });
  await build.open(slug, started[0]);
  await expect(build.reply(1, "arriving")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(build.reply(1, "stopped")).toBeVisible({ timeout: 5_000 });
  await page.goto(`${world.address}/apps/${slug}/history`);
  await expect(page.getByRole("img", { name: /arriving/ })).toHaveCount(6);
  for (const conversation of started.slice(1, 7)) await world.bench("DELETE", `conversations/${conversation}`);
});

test("an edit is a draft that the bench answers by; callers get it once it is put live", async ({ page, world }) => {
  const slug = await world.makeApp("Drafts", { prompt: 'End every reply with: "Fair winds."' });
  const build = buildOf(page, world);
  const askAsCaller = async () => {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: '{"message":"Hello"}',
    });
    return (await response.json()) as { text: string; revision: number };
  };
  await build.open(slug);
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await page.getByRole("textbox", { name: "System prompt" }).fill('End every reply with: "Mind the tide."');
  await expect(build.prompt).toContainText("draft, changed");
  await expect(page.getByRole("banner")).toContainText("draft after revision");
  await build.prompt.getByRole("button", { name: "see change" }).click();
  await expect(build.prompt.locator("ins").first()).toBeVisible();

  await build.say("Hello");
  await expect(build.reply(1, "complete")).toContainText("Mind the tide.");
  const before = await askAsCaller();
  expect(before.text).toContain("Fair winds.");

  await build.prompt.getByRole("button", { name: "make live" }).click();
  await expect(build.prompt).toContainText("live");
  const after = await askAsCaller();
  expect(after.text).toContain("Mind the tide.");
  expect(after.revision).toBeGreaterThan(before.revision);
  await expect(build.reply(1)).toContainText(`revision ${after.revision}`);
});

test("settings are edited in their sentence, and the next request carries them", async ({ page, world }) => {
  const slug = await world.makeApp("Settings");
  const build = buildOf(page, world);
  await build.open(slug);
  await page.keyboard.press("Alt+5");
  const model = page.getByRole("region", { name: "Model" });
  await fillValue(model.getByLabel("Temperature"), "0.2");
  await fillValue(model.getByLabel("Top-p"), "0.9");
  await fillValue(model.getByLabel("Output limit in tokens"), "30");
  await model.getByRole("combobox", { name: "Model" }).click();
  await page.getByTitle("reed-deep on Reedbed").click();
  await build.say(story);
  await expect(build.reply(1, "cut")).toContainText("cut at the output limit");
  await expect(build.reply(1)).toContainText("reed-deep");
  await build.reply(1).getByRole("button", { name: "raise the limit to 60" }).click();
  await expect(model.getByLabel("Output limit in tokens")).toHaveValue("60");
  await build.reply(1).getByRole("button", { name: "continue" }).click();
  await expect.poll(async () => (await world.calls()).at(-1)?.messages.at(-1)?.role).toBe("assistant");
});

test("tokens on a reply are what the provider reported, and the forecast comes to them", async ({ page, world }) => {
  const slug = await world.makeApp("Tokens");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("When do boats go to Brindle?");
  await expect(build.reply(1, "complete")).toBeVisible();
  await page.keyboard.press("Alt+6");
  const { conversations } = await world.bench<{ conversations: { id: string }[] }>("GET", `apps/${slug}/conversations`);
  const line = await world.bench<{ messages: { facts?: { usage: { input: number; output: number } } }[] }>(
    "GET",
    `conversations/${conversations[0]?.id}`,
  );
  const usage = line.messages[1]?.facts?.usage;
  await expect(page.getByRole("region", { name: "Reply" })).toContainText(
    `${usage?.input} tokens in, ${usage?.output} out`,
  );
  await expect(build.reply(1)).toContainText(String(usage?.output));
});

test("what is being typed stays while a reply arrives and across a reload, and goes out next", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Typing");
  const build = buildOf(page, world);
  await world.pace(50);
  await build.open(slug);
  await build.say(story);
  await expect(build.reply(1, "arriving")).toBeVisible();
  await build.message.fill("And how long is the crossing to Brindle?");
  await page.reload();
  await expect(build.message).toHaveValue("And how long is the crossing to Brindle?");
  await expect(build.reply(1, "arriving")).toBeVisible();
  await build.message.press("Enter");
  await expect(page.getByRole("button", { name: "Goes next" })).toBeVisible();
  await expect(build.rows).toHaveCount(3);
  await page.keyboard.press("Escape");
  await expect(build.reply(2)).toContainText("20 minutes");
  await expect(build.message).toHaveValue("");
});

test("what is typed right after Alt+N goes into the new conversation, letter by letter, whatever the server does", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Anew");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  const first = new URL(page.url()).searchParams.get("conversation") ?? "";
  await build.message.fill("kept for later");
  // no page is to be fetched for it
  const isPage = ({ pathname }: URL) => pathname.startsWith("/apps/");
  await page.route(isPage, () => {});
  await page.keyboard.press("Alt+N");
  await page.keyboard.type("When do boats go to Brindle?");
  await page.keyboard.press("Enter");
  await expect(build.reply(1, "complete")).toContainText("Brindle");
  await expect(page).not.toHaveURL(new RegExp(first));
  const line = await world.bench<{ messages: object[] }>("GET", `conversations/${first}`);
  expect(line.messages).toHaveLength(2);
  await page.unroute(isPage);
  await build.open(slug, first);
  await expect(build.message).toHaveValue("kept for later");
});

test("what goes next goes out in its own conversation, wherever one is by then", async ({ page, world }) => {
  const slug = await world.makeApp("Moved on");
  const build = buildOf(page, world);
  await world.pace(40);
  await build.open(slug);
  await build.say(story);
  await expect(build.reply(1, "arriving")).toBeVisible();
  const first = new URL(page.url()).searchParams.get("conversation") ?? "";
  await build.say("How long is the crossing to Brindle?");
  await expect(page.getByRole("button", { name: "Goes next" })).toBeVisible();
  await page.keyboard.press("Alt+N");
  await page.keyboard.type("Something else");
  await world.hurry();
  const turns = async () =>
    (
      await world.bench<{ messages: { role: string; pieces: { text: string }[] }[] }>("GET", `conversations/${first}`)
    ).messages
      .filter(({ role }) => role === "visitor")
      .map(({ pieces }) => pieces[0]?.text);
  await expect.poll(turns, { timeout: 60_000 }).toEqual([story, "How long is the crossing to Brindle?"]);
  await expect(build.message).toHaveValue("Something else");
  await expect(page).toHaveURL(/begins=con_/);
  await build.open(slug, first);
  await expect(build.message).toHaveValue("");
});

test("what is typed right after sending goes along into the conversation that begins", async ({ page, world }) => {
  const slug = await world.makeApp("Along");
  const build = buildOf(page, world);
  await world.pace(60);
  await build.open(slug);
  await build.say(story);
  await page.keyboard.type("And if it is full, can I keep the");
  await expect(page).toHaveURL(/conversation=con_/);
  await expect(build.reply(1)).toContainText("The crossing");
  await expect(build.message).toHaveValue("And if it is full, can I keep the");
  await page.keyboard.type(" ticket?");
  await page.reload();
  await expect(build.message).toHaveValue("And if it is full, can I keep the ticket?");
  await page.getByRole("button", { name: "new conversation" }).click();
  await expect(build.message).toHaveValue("");
});

test("Shift+Enter breaks the line, and nothing empty is sent", async ({ page, world }) => {
  const slug = await world.makeApp("Empty");
  const build = buildOf(page, world);
  await build.open(slug);
  const before = (await world.calls()).length;
  await build.message.press("Enter");
  await build.message.fill("   ");
  await build.message.press("Enter");
  await expect(page.getByRole("button", { name: "Send" })).toBeDisabled();
  await build.message.fill("one");
  await build.message.press("Shift+Enter");
  await page.keyboard.type("two");
  await build.message.press("Enter");
  await expect(build.reply(1, "complete")).toBeVisible();
  const calls = await world.calls();
  expect([calls.length, calls.at(-1)?.messages.at(-1)?.content]).toEqual([before + 1, "one\ntwo"]);
});

test("the view follows the text until the reader scrolls up, and offers the way back", async ({ page, world }) => {
  const slug = await world.makeApp("Follow", { settings: {} });
  const build = buildOf(page, world);
  await world.pace(300);
  await build.open(slug);
  await build.say("Tell me a story about the ferry in 900 words");
  const fromEnd = () => build.sheet.evaluate((sheet) => sheet.scrollHeight - sheet.scrollTop - sheet.clientHeight);
  await expect.poll(() => build.sheet.evaluate((sheet) => sheet.scrollTop)).toBeGreaterThan(100);
  await expect.poll(fromEnd).toBeLessThan(48);
  await build.sheet.hover();
  await page.mouse.wheel(0, -4000);
  await expect(page.getByRole("button", { name: "to the end" })).toBeVisible();
  await expect.poll(fromEnd).toBeGreaterThan(100);
  await page.getByRole("button", { name: "to the end" }).click();
  await expect.poll(fromEnd).toBeLessThan(48);
  await page.keyboard.press("Escape");
});

test("Markdown shows tables and coloured code, gives no HTML and no remote picture a chance", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Markdown");
  const build = buildOf(page, world);
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  const asked: string[] = [];
  page.on("request", (request) => asked.push(new URL(request.url()).host));
  await build.open(slug);
  await build.say("When do boats go to Tansy Holm with bicycles, in a table?");
  await expect(build.reply(1, "complete").getByRole("table")).toContainText("9:40");
  await build.say("Write code for it");
  await expect(build.reply(2, "complete").locator(".hljs-keyword").first()).toHaveText("const");
  await build.reply(2).getByRole("button", { name: "copy" }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain("function firstWithRoom");
  await build.say('Say "<img src=x onerror=alert(1)> ![p](http://evil.example/p.png) [l](http://evil.example)"');
  const reply = build.reply(3, "complete");
  await expect(reply).toContainText("[picture: p]");
  await expect(reply.locator("img")).toHaveCount(0);
  await expect(reply.getByRole("link", { name: "l" })).toHaveAttribute("rel", "noopener noreferrer");
  expect(asked.every((host) => host === new URL(world.address).host)).toBe(true);
});

test("a long conversation is read by page, and the reach counts what is not on the page", async ({ page, world }) => {
  const slug = await world.makeApp("Long", { settings: { maxOutput: 20 } });
  const build = buildOf(page, world);
  const { conversation } = await world.bench<{ conversation: string }>("POST", `apps/${slug}/replies`, {
    message: "Turn number 1",
  });
  for (let turn = 2; turn <= 34; turn++) {
    await expect
      .poll(() =>
        world
          .bench<{ conversations: { turns: { state: string }[] }[] }>("GET", `apps/${slug}/conversations`)
          .then(({ conversations }) => conversations[0]?.turns.at(-1)?.state),
      )
      .not.toMatch(/waiting|arriving/);
    await world.bench("POST", `apps/${slug}/replies`, { message: `Turn number ${turn}`, conversation });
  }
  await build.open(slug, conversation);
  await expect(build.reply(34)).toBeVisible();
  await expect(page.getByText("Turn number 1", { exact: true })).toHaveCount(0);
  await expect(page.getByText("4 turns above")).toBeVisible();
  await page.keyboard.press("Alt+3");
  await expect(page.getByRole("region", { name: "Memory" })).toContainText("34 turns");
  await page.getByRole("button", { name: "show earlier turns" }).click();
  await expect(page.getByText("Turn number 1", { exact: true })).toHaveCount(1);
  await expect(page.getByRole("region", { name: "Memory" })).toContainText("34 turns");
});

test("the main job is done from the keyboard alone", async ({ page, world }) => {
  const slug = await world.makeApp("Keys");
  const build = buildOf(page, world);
  await build.open(slug);
  await expect(build.message).toBeFocused();
  await page.keyboard.press("Alt+2");
  await expect(page.getByRole("region", { name: "Prompt" })).toBeVisible();
  await page.getByRole("button", { name: "edit it in row 0" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("textbox", { name: "System prompt" })).toBeFocused();
  await page.keyboard.press("Control+A");
  await page.keyboard.type("Answer in at most five words.");
  await page.keyboard.press("Escape");
  await build.message.focus();
  await page.keyboard.type("When do boats go to Brindle?");
  await page.keyboard.press("Enter");
  await expect(build.reply(1, "complete")).toBeVisible();
  const answer = (await world.calls()).at(-1)?.said ?? "";
  expect(answer.split(/\s+/).length).toBeLessThanOrEqual(5);
  await page.keyboard.press("Alt+N");
  await expect(build.sheet).toContainText("No turns yet");
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).focus();
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog", { name: "Keys" })).toBeHidden();
});

test("a setting of an API's own is a word in the Model sentence, is sent, and tells candidates apart", async ({
  page,
  world,
}) => {
  const provider = await world.wire("Saltpan");
  const slug = await world.makeApp("Own settings", { provider, model: "pan-clear" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("What does a dog cost?");
  await expect(build.reply(1, "complete")).toContainText("what it thought");
  await build.station("Model").click();
  await page.getByRole("combobox", { name: "Thinks before it speaks" }).click();
  await page.getByTitle("not at all", { exact: true }).click();
  await build.say("And a bicycle?");
  await expect(build.reply(2, "complete")).toContainText("bicycle");
  await expect(build.reply(2, "complete")).not.toContainText("what it thought");
  await expect(build.reply(2, "complete")).toContainText("revision 3");
  // another model of the same API does not have it
  await world.editDraft(slug, { model: "pan-brief" });
  await page.reload();
  await build.station("Model").click();
  await expect(page.getByRole("spinbutton", { name: "Seed" })).toBeVisible();
  await expect(page.getByRole("combobox", { name: "Thinks before it speaks" })).toHaveCount(0);
});
