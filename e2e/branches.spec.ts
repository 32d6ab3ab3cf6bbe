import { allEvents, buildOf, expect, fillValue, test, type World } from "./fixtures";

interface Asked {
  reply: string;
  conversation: string;
  message: string;
  further: string[];
}

interface Line {
  messages: { id: string; role: string; state?: string; pieces: { text: string }[]; siblings: { id: string }[] }[];
}

const ask = (world: World, slug: string, body: object) => world.bench<Asked>("POST", `apps/${slug}/replies`, body);
const lineOf = (world: World, conversation: string) => world.bench<Line>("GET", `conversations/${conversation}`);
const textOf = ({ pieces }: Line["messages"][0]) => pieces.map(({ text }) => text).join("");

/** Asks, and waits until all that was asked for has ended. */
async function answered(world: World, slug: string, body: object): Promise<Asked> {
  const asked = await ask(world, slug, body);
  for (const id of [asked.reply, ...asked.further])
    await expect
      .poll(
        async () =>
          (await world.bench<Line>("GET", `conversations/${asked.conversation}?through=${id}`)).messages.find(
            (each) => each.id === id,
          )?.state,
      )
      .not.toMatch(/waiting|arriving/);
  return asked;
}

test.describe("takes", () => {
  test("ten at once, of an API that gives one a call and takes three calls at once, stream and are kept; the chosen one is carried", async ({
    world,
  }) => {
    const provider = await world.wire("Saltpan");
    const slug = await world.makeApp("Ten takes", { provider, model: "pan-clear" });
    await world.bench("PATCH", `providers/${provider}`, { atOnce: 3 });
    const first = await answered(world, slug, { message: "Tell me a joke about a ferry" });
    const more = await answered(world, slug, { again: first.message, count: 9 });
    const line = await lineOf(world, first.conversation);
    const siblings = line.messages[1]?.siblings ?? [];
    expect(siblings.map(({ id }) => id)).toEqual([first.reply, more.reply, ...more.further]);
    expect(line.messages[1]).toMatchObject({ id: more.reply, state: "complete" });
    const texts = new Set<string>();
    for (const { id } of siblings) {
      await world.bench("PUT", `messages/${id}/shown`);
      const [, shown] = (await lineOf(world, first.conversation)).messages;
      texts.add(shown ? textOf(shown) : "");
      expect(shown).toMatchObject({ id, state: "complete" });
    }
    expect(texts.size).toBeGreaterThan(1);
    const chosen = siblings[4]?.id ?? "";
    await world.bench("PUT", `messages/${chosen}/shown`);
    const shown = (await lineOf(world, first.conversation)).messages[1];
    const next = await answered(world, slug, { message: "Shorter", conversation: first.conversation });
    const { dispatches } = await world.bench<{
      dispatches: {
        request: { body: string };
        ledger: { entries: { part: string; first?: string; carried: boolean }[] };
      }[];
    }>("GET", `replies/${next.reply}/dispatches`);
    expect(dispatches[0]?.request.body).toContain(JSON.stringify(shown && textOf(shown)).slice(1, -1));
    expect(dispatches[0]?.ledger.entries.filter(({ part }) => part === "messages").map((entry) => entry.first)).toEqual(
      [first.message, chosen, next.message],
    );
    await world.bench("PATCH", `providers/${provider}`, { atOnce: null });
  });

  test("of an API that gives several come of one call; each is read, stopped and paid for by itself", async ({
    world,
  }) => {
    const slug = await world.makeApp("One call");
    const app = `${world.address}/api/apps/${slug}`;
    const headers = { "finch-visitor": "ada", "idempotency-key": "ten" };
    const said = await fetch(`${app}/replies`, {
      method: "POST",
      body: '{"message":"Hello"}',
      headers: { "finch-visitor": "ada" },
    });
    const { message } = (await said.json()) as { message: string };
    const before = (await world.calls()).length;
    await world.pace(20);
    const body = JSON.stringify({ again: message, count: 3 });
    const response = await fetch(`${app}/replies`, { method: "POST", body, headers });
    expect(response.status).toBe(202);
    const { takes } = (await response.json()) as { takes: { reply: string; events: string }[] };
    expect(takes).toHaveLength(3);
    // the same call once more is the same takes
    const again = (await (await fetch(`${app}/replies`, { method: "POST", body, headers })).json()) as {
      takes: object[];
    };
    expect(again.takes).toMatchObject(takes.map(({ reply }) => ({ reply })));
    const stopped = await fetch(`${app}/replies/${takes[1]?.reply}/stop`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
    });
    expect(await stopped.json()).toMatchObject({ state: "stopped" });
    await world.hurry();
    for (const at of [0, 2]) {
      const heard = await allEvents(await fetch(takes[at]?.events ?? "", { headers: { accept: "text/event-stream" } }));
      expect(heard.at(-1)).toMatchObject({ event: "end", data: { reason: "complete" } });
    }
    expect((await world.calls()).length).toBe(before + 1);
    const usages = [];
    for (const { reply } of takes) {
      await world.bench("PUT", `messages/${reply}/shown`);
      const { conversations } = await world.bench<{ conversations: { id: string }[] }>(
        "GET",
        `apps/${slug}/conversations`,
      );
      const [, shown] = (await lineOf(world, conversations[0]?.id ?? "")).messages as unknown as {
        facts: { usage?: object };
      }[];
      usages.push(shown?.facts.usage);
    }
    expect(usages).toMatchObject(
      [{ estimated: expect.any(Boolean) }, {}, { price: expect.any(Number) }].map((usage, at) =>
        at === 1 ? undefined : usage,
      ) as never,
    );
    // who looked changed nothing for the visitor
    const list = (await (await fetch(`${app}/conversations`, { headers: { "finch-visitor": "ada" } })).json()) as {
      conversations: { id: string }[];
    };
    const line = (await (
      await fetch(`${app}/conversations/${list.conversations[0]?.id}`, { headers: { "finch-visitor": "ada" } })
    ).json()) as Line;
    expect(line.messages[1]?.id).toBe(takes[0]?.reply);
  });

  test("a turn that failed is asked again as a take of it, at the bench and from the page", async ({ page, world }) => {
    const slug = await world.makeApp("Failing");
    const build = buildOf(page, world);
    await build.open(slug);
    await world.fault({ fault: "status", status: 503, calls: 1 });
    await build.say("Hello");
    await expect(build.reply(1, "failed")).toBeVisible();
    await build.reply(1).getByRole("button", { name: "ask again" }).click();
    await expect(build.reply(1, "complete")).toBeVisible();
    await expect(page.getByRole("group", { name: "Takes of turn 1: 2 of 2 is shown" })).toBeVisible();
    await world.fault({ fault: "status", status: 503, calls: 1 });
    await page.goto(`${world.address}/talk/${slug}`);
    await page.getByRole("textbox").fill("Good day");
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(page.locator('.talk-row[data-role="app"][data-state="complete"]')).toHaveCount(1);
    const { conversations } = await world.bench<{ conversations: { id: string; turnCount: number }[] }>(
      "GET",
      `apps/${slug}/conversations?origin=page`,
    );
    expect(conversations).toMatchObject([{ turnCount: 1 }]);
  });
});

test.describe("lines that part", () => {
  test("a branch in the middle, another on that, and a take by hand: keys and names tell where one is, in two tabs", async ({
    page,
    context,
    world,
  }) => {
    const slug = await world.makeApp("Branches");
    const build = buildOf(page, world);
    await build.open(slug);
    for (const [at, text] of ["I'm Ivo", "I have two bicycles", "What is my name?"].entries()) {
      await build.say(text);
      await expect(build.reply(at + 1, "complete")).toBeVisible();
    }
    await expect(page).toHaveURL(/conversation=con_/);
    const other = await context.newPage();
    await other.goto(page.url());
    const otherRows = buildOf(other, world);
    await expect(otherRows.reply(3, "complete")).toContainText("Ivo");
    // another line from the first turn on
    const first = page.getByRole("article", { name: "Turn 1, visitor" });
    await first.hover();
    await first.getByRole("button", { name: "change" }).click();
    await page.getByRole("textbox", { name: "Turn 1, said in another way" }).fill("I'm Ada");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("article", { name: "Turn 1, visitor, line 2 of 2" })).toContainText("I'm Ada");
    await expect(build.reply(1, "complete")).toContainText("Ada");
    await expect(other.getByRole("article", { name: "Turn 1, visitor, line 2 of 2" })).toContainText("I'm Ada");
    await build.say("What is my name?");
    await expect(build.reply(2, "complete")).toContainText("Ada");
    // a correction by hand of the reply in that line
    await build.reply(2).getByRole("button", { name: "correct" }).click();
    await page.getByRole("textbox", { name: "Reply of turn 2, corrected" }).fill("You are Ada, and welcome aboard.");
    await page.keyboard.press("Enter");
    await expect(page.getByRole("article", { name: "Turn 2, reply, complete, take 2 of 2" })).toContainText(
      "corrected by hand",
    );
    // it is carried from here on
    await build.say("Say that again");
    await expect(build.reply(3, "complete")).toBeVisible();
    expect((await world.calls()).at(-1)?.messages.map(({ content }) => content)).toContain(
      "You are Ada, and welcome aboard.",
    );
    // by key to the place where lines part, and by number to the other
    await page.keyboard.press("Alt+ArrowUp");
    await page.keyboard.press("Alt+ArrowUp");
    await expect(page.getByRole("button", { name: "line 2", exact: true })).toBeFocused();
    await page.keyboard.press("1");
    await expect(page.getByRole("article", { name: "Turn 1, visitor, line 1 of 2" })).toContainText("I'm Ivo");
    await expect(build.reply(3, "complete")).toContainText("Ivo");
    await expect(other.getByRole("article", { name: "Turn 1, visitor, line 1 of 2" })).toContainText("I'm Ivo");
    // side by side, with their differences
    await page
      .getByRole("group", { name: /Lines of turn 1/ })
      .getByRole("button", { name: "side by side" })
      .click();
    const beside = page.getByRole("region", { name: "Side by side" });
    await expect(beside.locator("ins").first()).toContainText("Ivo");
    await expect(beside.locator("del").first()).toContainText("Ada");
    // named, then deleted; the other is shown again
    await first.hover();
    await page.getByRole("textbox", { name: "Name of this line" }).first().fill("the one with Ivo");
    await page.keyboard.press("Enter");
    await expect(other.getByRole("button", { name: "line 1, the one with Ivo" })).toBeVisible();
    await first.hover();
    await first.getByRole("button", { name: "delete this line" }).click();
    await page.getByRole("dialog").getByRole("button", { name: "Delete it for good" }).click();
    await expect(first).toContainText("I'm Ada");
    await expect(page.getByRole("group", { name: /Lines of turn 1/ })).toHaveCount(0);
    await expect(other.getByRole("article", { name: "Turn 1, visitor" })).toContainText("I'm Ada");
    await expect(build.reply(3, "complete")).toBeVisible();
  });

  test("are gone between while one arrives, and nothing of it is lost", async ({ page, world }) => {
    const slug = await world.makeApp("Between");
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say("Hello");
    await expect(build.reply(1, "complete")).toBeVisible();
    // it arrives until it is told to hurry, however short it is
    await world.pace(0.5);
    await page.keyboard.press("Alt+a");
    await expect(page.getByRole("group", { name: "Takes of turn 1: 2 of 2 is shown" })).toBeVisible();
    await expect(build.reply(1, "arriving")).toBeVisible();
    await page.getByRole("button", { name: "take 1", exact: true }).click();
    await expect(page.getByRole("article", { name: "Turn 1, reply, complete, take 1 of 2" })).toBeVisible();
    await page.getByRole("button", { name: "take 2", exact: true }).click();
    await world.hurry();
    const second = page.getByRole("article", { name: "Turn 1, reply, complete, take 2 of 2" });
    await expect(second).toBeVisible();
    const whole = (await world.calls()).at(-1)?.text ?? "";
    await expect(second).toContainText(whole.split("\n")[0]?.replace(/[*#]/g, "").trim().slice(0, 20) ?? "");
  });

  test("several takes are asked for in a sentence, by another model too", async ({ page, world }) => {
    await world.wire("Saltpan");
    const slug = await world.makeApp("Sentence");
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say("Hello");
    await expect(build.reply(1, "complete")).toBeVisible();
    await build.reply(1).getByRole("button", { name: "another take" }).click();
    await fillValue(page.getByRole("spinbutton", { name: "Takes" }), "2");
    await page.getByRole("combobox", { name: "Model of the takes" }).click();
    await page.getByTitle("pan-brief on Saltpan").click();
    await page.getByRole("button", { name: "Ask", exact: true }).click();
    await expect(page.getByRole("article", { name: "Turn 1, reply, complete, take 2 of 3" })).toContainText(
      "pan-brief",
    );
  });
});

test.describe("a clear", () => {
  test("carries nothing from above it, says so, and can be taken away", async ({ page, world }) => {
    const slug = await world.makeApp("Cleared");
    const build = buildOf(page, world);
    await build.open(slug);
    await build.say("I'm Ivo");
    await expect(build.reply(1, "complete")).toBeVisible();
    await build.reply(1).getByRole("button", { name: "clear below" }).click();
    await expect(page.getByRole("note")).toContainText("Cleared: nothing above is carried.");
    await expect(page.getByRole("article", { name: "Turn 1, visitor" })).toContainText("it stands above a clear");
    await build.say("What is my name?");
    await expect(build.reply(2, "complete")).not.toContainText("Ivo");
    expect((await world.calls()).at(-1)?.messages.map(({ role }) => role)).toEqual(["system", "user"]);
    await page.getByRole("button", { name: "delete it" }).click();
    await expect(page.getByRole("note")).toHaveCount(0);
    await build.say("What is my name, then?");
    await expect(build.reply(3, "complete")).toContainText("Ivo");
  });
});

test("what was sent is recalled by arrow up, in the next conversation too", async ({ page, world }) => {
  const slug = await world.makeApp("Recall");
  const build = buildOf(page, world);
  await build.open(slug);
  for (const [at, text] of ["First thing", "Second thing"].entries()) {
    await build.say(text);
    await expect(build.reply(at + 1, "complete")).toBeVisible();
  }
  await page.keyboard.press("Alt+n");
  await expect(page.getByText("No turns yet")).toBeVisible();
  await page.keyboard.press("ArrowUp");
  await expect(build.message).toHaveValue("Second thing");
  await page.keyboard.press("ArrowUp");
  await expect(build.message).toHaveValue("First thing");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("ArrowDown");
  await expect(build.message).toHaveValue("");
  await build.message.fill("Something new");
  await page.keyboard.press("ArrowUp");
  await expect(build.message).toHaveValue("Something new");
});

test("a visitor marks a reply on the page; what the bench puts right stands in its own line", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Rated");
  await world.bench("PUT", `apps/${slug}/look`, { look: { shows: { rating: true } } });
  await page.goto(`${world.address}/talk/${slug}`);
  await page.getByRole("textbox").fill("Hello");
  await page.keyboard.press("Enter");
  const bad = page.getByRole("button", { name: "Not good" });
  await bad.click();
  await expect(bad).toHaveAttribute("aria-pressed", "true");
  await expect
    .poll(
      async () =>
        (await world.bench<{ conversations: object[] }>("GET", `apps/${slug}/conversations?rated=bad`)).conversations
          .length,
    )
    .toBe(1);
  await page.reload();
  await expect(bad).toHaveAttribute("aria-pressed", "true");
  const { conversations } = await world.bench<{ conversations: { id: string }[] }>("GET", `apps/${slug}/conversations`);
  const { messages } = await world.bench<Line>("GET", `conversations/${conversations[0]?.id}`);
  // what the bench writes in a visitor's conversation stands in the bench's own line
  await world.bench("POST", `messages/${messages[0]?.id}/takes`, {
    text: "Welcome aboard.",
    corrects: messages[1]?.id,
  });
  await page.reload();
  await expect(page.locator('.talk-row[data-role="app"]')).not.toContainText("Welcome aboard.");
  const response = await fetch(`${world.address}/api/bench/conversations/${conversations[0]?.id}`);
  expect(await response.json()).toMatchObject({ isApart: true, messages: [{}, { facts: { hand: "corrected" } }] });
});
