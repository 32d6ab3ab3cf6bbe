import type { BenchLine } from "@/contract/conversations";
import type { Memory } from "@/core/context/policies/policies";
import { type Calibration, marginOf, tokensOf } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { buildOf, expect, fillValue, type StandInName, standIns, test, type World } from "./fixtures";
import { appOn, ask, models } from "./memory-app";

async function putLive(world: World, slug: string, memory: Memory): Promise<void> {
  const { draft } = await world.bench<{ draft: object }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: { ...draft, memory } });
}

test.describe("a window of 1,024 tokens", () => {
  const policies: Memory[] = [
    { kind: "nothing" },
    { kind: "last-turns", turns: 8 },
    { kind: "last-messages", messages: 12 },
    { kind: "fitting", tokens: 400 },
    { kind: "fitting", tokens: 100_000, as: "text" },
    { kind: "summary", turns: 3 },
  ];
  const question = (turn: number) =>
    `Question ${turn}: when does the next boat to Tansy Holm leave, how many bicycles may go on it, and what do two of them cost there and back with a dog?`;

  for (const memory of policies)
    test(`holds a conversation of sixty turns: ${JSON.stringify(memory)}`, async ({ world }) => {
      const slug = await appOn(world, "Lantern", memory);
      let conversation: string | undefined;
      for (let turn = 1; turn <= 60; turn += 1) {
        const answer = await ask(world, slug, { message: question(turn), conversation });
        expect(answer, `turn ${turn}`).toMatchObject({ status: 200 });
        conversation = answer.conversation;
      }
      if (memory.kind !== "summary") return;
      const { summaries } = await world.bench<BenchLine>("GET", `conversations/${conversation}`);
      expect(summaries.length).toBeGreaterThan(5);
    });

  test("is refused before sending where everything is carried and does not fit, with the numbers and the way out", async ({
    world,
  }) => {
    const slug = await appOn(world, "Lantern", { kind: "everything" });
    let conversation: string | undefined;
    for (let turn = 1; ; turn += 1) {
      const answer = await ask(world, slug, { message: question(turn), conversation });
      if (answer.status === 200) {
        expect(turn).toBeLessThan(30);
        conversation = answer.conversation;
        continue;
      }
      expect(answer).toMatchObject({ status: 422, kind: "too-long" });
      expect(answer.detail).toMatch(/About \d+ tokens would be sent.*1024.*150 are kept for the reply: \d+ too many/);
      break;
    }
    // what was refused is not stored, and a memory that lets go of something goes on from there
    await putLive(world, slug, { kind: "last-turns", turns: 3 });
    expect(await ask(world, slug, { message: question(0), conversation })).toMatchObject({ status: 200 });
  });
});

test.describe("a name that was told ten turns ago", () => {
  for (const standIn of standIns)
    test(`is not known by the last four turns, and is once its turn is pinned: ${standIn}`, async ({ world }) => {
      const slug = await appOn(world, standIn, { kind: "last-turns", turns: 4 });
      const first = await ask(world, slug, { message: "Hello, my name is Ivo." });
      const { conversation, message } = first;
      for (let turn = 2; turn <= 11; turn += 1)
        await ask(world, slug, { message: `Turn ${turn}: how long is the crossing to Brindle?`, conversation });
      const asked = { message: "What is my name?", conversation };
      expect((await ask(world, slug, asked)).text).not.toContain("Ivo");
      await world.bench("PUT", `messages/${message}/pin`);
      expect((await ask(world, slug, asked)).text).toContain("Ivo");
      await world.bench("DELETE", `messages/${message}/pin`);
      expect((await ask(world, slug, { ...asked, message: "And my name is?" })).text).not.toContain("Ivo");
    });
});

test.describe("after ten replies of mixed kinds", () => {
  /** Texts of a kind, the same in each run. */
  function texts(seed: number) {
    let state = seed;
    const next = (most: number) => {
      state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
      return Math.floor((state / 2 ** 32) * most);
    };
    const some = <T>(from: readonly T[], least: number, most: number) =>
      Array.from({ length: least + next(most - least) }, () => from[next(from.length)] as T);
    const words =
      "the boat to Tansy Holm leaves from Mill Quay at half past nine with room for eight bicycles, and passengers who travel with a wheelchair tell the office a day ahead because the crew prepares everything on board".split(
        " ",
      );
    const code =
      "const places = boats.filter((boat) => boat.quay === quay);|for (let at = 0; at < sailings.length; at += 1) {|  if (!sailing.isOver) return undefined;|export function fareOf(passenger, { isReturn }) {|  total += passengers * 6.5;|}|// what is left over goes to the next sailing".split(
        "|",
      );
    const signs =
      "渡し船は午前九時に港を出て島へ向かいます自転車と犬を連れて行けます天気が悪い日は運休です窓口で確認してください";
    const kinds = {
      prose: () => `${some(words, 30, 120).join(" ")}.`,
      code: () => `\`\`\`js\n${some(code, 5, 25).join("\n")}\n\`\`\``,
      signs: () => `${some([...signs], 20, 120).join("")}。`,
      table: () =>
        ["| Boat | Time | Places |", "| --- | --- | --- |"]
          .concat(
            Array.from(
              { length: 4 + next(10) },
              () => `| ${some(words, 1, 3).join(" ")} | ${next(24)}:${10 + next(49)} | ${next(400)} |`,
            ),
          )
          .join("\n"),
    };
    const all = Object.values(kinds);
    return [...all, () => all.map((kind) => kind().slice(0, 160)).join("\n\n")];
  }

  for (const standIn of standIns)
    test(`a hundred other requests are estimated well: ${standIn}`, async ({ world }) => {
      const slug = await appOn(world, standIn, { kind: "everything" }, `Estimates on ${standIn}`);
      await forgetCounts(world, standIn);
      const room = standIn === "Lantern" ? 1 : 3;
      const training = texts(7);
      for (let call = 0; call < 10; call += 1) {
        const message = training[call % training.length]?.() ?? "";
        expect(await ask(world, slug, { message: message.slice(0, 500) })).toMatchObject({ status: 200 });
      }
      const { providers } = await world.bench<{
        providers: { name: string; models: { name: string; calibration: Calibration }[] }[];
      }>("GET", "providers");
      const calibration = providers
        .find(({ name }) => name === standIn)
        ?.models.find(({ name }) => name === models[standIn])?.calibration as Calibration;
      const kinds = texts(99);
      const misses: number[] = [];
      let within = 0;
      for (let call = 0; call < 100; call += 1) {
        const said = Array.from({ length: 1 + 2 * (call % room) }, (_, at) => ({
          role: at % 2 === 0 ? "visitor" : "app",
          text: (kinds[(call + at) % kinds.length]?.() ?? "").slice(0, 700),
        }));
        const { usage, reply, status } = await ask(world, slug, { messages: said });
        expect(status).toBe(200);
        const all = ["You are the desk.", ...said.map(({ text }) => text)];
        const holding = { counts: sumOf(all.map(countsOf)), messages: all.length };
        misses.push(Math.abs(tokensOf(holding, calibration) - usage.input) / usage.input);
        if (Math.abs(tokensOf(holding, calibration) - usage.input) <= marginOf(holding, calibration)) within += 1;
        // what is sent is what the ledger says, message for message
        const { dispatches } = await world.bench<{
          dispatches: { ledger: { entries: { part: string; count?: number }[] } }[];
        }>("GET", `replies/${reply}/dispatches`);
        const counted = dispatches[0]?.ledger.entries.reduce((sum, entry) => sum + (entry.count ?? 1), 0);
        expect(counted).toBe(all.length);
      }
      misses.sort((a, b) => a - b);
      expect(misses[50]).toBeLessThanOrEqual(0.03);
      expect(misses[95]).toBeLessThanOrEqual(0.1);
      expect(within).toBeGreaterThanOrEqual(85);
    });
});

/** Has everything be forgotten that was learned of how a stand-in counts. */
async function forgetCounts(world: World, standIn: StandInName): Promise<void> {
  const id = await world.wire(standIn);
  const { models } = (await (await fetch(`${world.at(standIn)}/standin/about`)).json()) as { models: object[] };
  await world.bench("PATCH", `providers/${id}`, { models: [] });
  await world.bench("PATCH", `providers/${id}`, { models });
}

function sumOf(all: ReturnType<typeof countsOf>[]) {
  const sum = { ...(all[0] as ReturnType<typeof countsOf>) };
  for (const counts of all.slice(1))
    for (const name of Object.keys(sum) as (keyof typeof sum)[]) sum[name] += counts[name];
  return sum;
}

test("the memory is changed in its sentence: the bracket moves before anything is sent, and the ledger is what goes out", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Bracket", { prompt: "You are the desk." });
  const build = buildOf(page, world);
  await build.open(slug);
  for (const [at, said] of ["I'm Ivo.", "Which boat?", "And the dog?", "And parking?"].entries()) {
    await build.say(said);
    await expect(build.reply(at + 1, "complete")).toBeVisible();
  }
  await page.keyboard.press("Alt+3");
  await page.getByRole("combobox", { name: "What is carried" }).click();
  await page.getByText("the last turns", { exact: true }).click();
  await fillValue(page.getByRole("spinbutton", { name: "Turns that are carried" }), "1");
  const folded = page.getByRole("article", { name: "Turns 1 to 3, folded" });
  await expect(folded).toContainText("left out: older than the last 1 turn");
  await folded.getByRole("button", { name: "show them" }).click();
  const first = page.getByRole("article", { name: "Turn 1, visitor" });
  await expect(first).toHaveAttribute("data-carried", "false");
  await first.getByRole("button", { name: "pin", exact: true }).click();
  await expect(first).toHaveAttribute("data-carried", "true");
  await expect(first).toContainText("pinned");

  await build.message.fill("What is my name?");
  await page.getByRole("button", { name: "ledger" }).click();
  const ledger = page.getByRole("region", { name: "What would be sent" });
  await expect(ledger.getByRole("row", { name: /The message that is written/ })).toBeVisible();
  const carried = await ledger.getByRole("row", { name: / in / }).count();
  await page.getByRole("button", { name: "Send", exact: true }).click();
  await expect(build.reply(5, "complete")).toContainText("Ivo");
  // the next message begins as this one did
  await expect(ledger).toContainText(/The first \d+ are the same as last time/);
  await page.getByRole("button", { name: "figures of each turn" }).click();
  await expect(build.reply(5).getByRole("row", { name: /messages sent 5/ })).toBeVisible();
  await expect(build.reply(5).getByRole("row", { name: /^words / })).toBeVisible();
  const sent = (await world.calls()).at(-1)?.messages ?? [];
  expect(sent.length).toBe(carried);
  expect(sent.map(({ content }) => content).slice(1, 2)).toEqual(["I'm Ivo."]);
});

test("an edit, going back: two revisions, each reply names its own, and what changed is told", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Revisions", { prompt: 'End every reply with: "Fair winds."' });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toContainText("Fair winds.");
  const first = Number(/revision (\d+)/.exec((await build.reply(1).textContent()) ?? "")?.[1]);
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  await page.getByRole("textbox", { name: "System prompt" }).fill('End every reply with: "Mind the tide."');
  await build.say("Hello again");
  await expect(build.reply(2, "complete")).toContainText("Mind the tide.");
  await build.say("And again");
  await expect(build.reply(3, "complete")).toContainText(`revision ${first + 1}`);

  await build.prompt.getByRole("button", { name: "revisions" }).click();
  const revision = (number: number) => page.getByRole("article", { name: `Revision ${number}`, exact: true });
  await expect(revision(first + 1)).toContainText("2 replies");
  await expect(revision(first + 1).locator("del")).toHaveText(["Fair winds"]);
  await expect(revision(first + 1).locator("ins")).toHaveText(["Mind the tide"]);
  await expect(revision(first)).toContainText("1 reply");
  await revision(first)
    .getByRole("textbox", { name: `Note on revision ${first}` })
    .fill("the good one");
  await page.keyboard.press("Enter");
  await revision(first).getByRole("button", { name: "go back to it" }).click();

  await expect(build.prompt).toContainText("Fair winds.");
  await build.say("And once more");
  await expect(build.reply(4, "complete")).toContainText("Fair winds.");
  await expect(build.reply(4)).toContainText(`revision ${first}`);
  await build.prompt.getByRole("button", { name: "revisions" }).click();
  await expect(revision(first)).toContainText("2 replies");
  await expect(revision(first).getByRole("textbox")).toHaveValue("the good one");
  await expect(page.getByRole("article", { name: /^Revision \d+$/ })).toHaveCount(first + 1);
});

test("a prompt is checked where it stands, its variables are completed, and a block is tried without", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Prompted", { prompt: "You are the desk." });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  const area = page.getByRole("textbox", { name: "System prompt" });
  // the plain field that stands there at first has a test of its own
  await expect(page.locator(".cm-content")).toBeFocused();
  await area.fill('You are the desk.\n[[tone]]\nEnd every reply with: "Aye."\n[[end]]\nToday is ');
  await area.pressSequentially("{{to");
  await expect(page.getByRole("option", { name: "{{today}}" })).toBeVisible();
  await page.keyboard.press("Tab");
  await area.pressSequentially(", at {{desk}}. {{Bad}}");
  const checks = page.getByRole("list", { name: "Problems of the prompt" });
  await expect(checks).toContainText("Nothing gives {{desk}} a value.");
  await expect(checks).toContainText("{{Bad}} is no variable");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Alt+2");
  await fillValue(page.getByRole("textbox", { name: "Sample of desk" }), "Mill Quay");
  await expect(checks).not.toContainText("desk");
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toContainText("Aye.");
  const system = async () => (await world.calls()).at(-1)?.messages[0]?.content ?? "";
  expect(await system()).toMatch(
    /^You are the desk\.\nEnd every reply with: "Aye\."\nToday is \d{4}-\d\d-\d\d, at Mill Quay\./,
  );
  await page.getByRole("combobox", { name: "Block tone" }).click();
  await page.getByText("off", { exact: true }).last().click();
  await build.say("Hello again");
  await expect(build.reply(2, "complete")).not.toContainText("Aye.");
  expect(await system()).not.toContain("Aye");

  await page.getByRole("button", { name: "No fixed turn" }).click();
  await page.getByRole("button", { name: "add a turn" }).click();
  await page.getByRole("textbox", { name: "Opening, turn 1, visitor" }).fill("My name is Marit.");
  await page.getByRole("textbox", { name: "Opening, turn 1, Prompted" }).fill("Noted.");
  await expect(page.getByRole("article", { name: "Opening, turn 1" })).toContainText("My name is Marit.");
  await build.say("What is my name?");
  await expect(build.reply(3, "complete")).toContainText("Marit");
});

test("a variable that is begun before the editor has come is completed once it has", async ({ page, world }) => {
  const build = buildOf(page, world);
  await build.open(await world.makeApp("Begun early", { prompt: "You are the desk." }));
  let come = () => {};
  const coming = new Promise<void>((resolve) => {
    come = resolve;
  });
  await page.route("**/*.js", async (route) => {
    await coming;
    await route.continue();
  });
  await build.prompt.getByRole("button", { name: "Edit the system prompt" }).click();
  const area = page.getByRole("textbox", { name: "System prompt" });
  await area.fill("Today is {{to");
  come();
  await expect(page.getByRole("option", { name: "{{today}}" })).toBeVisible();
  await page.keyboard.press("Tab");
  await expect(area).toHaveText("Today is {{today}}");
});

test("what an app may spend a day holds for callers and at the bench, and says so", async ({ page, world }) => {
  const slug = await world.makeApp("Thrifty", { settings: { maxOutput: 40 } });
  expect(await ask(world, slug, { message: "Hello" })).toMatchObject({ status: 200 });
  const { access } = await world.bench<{ access: { limits: object } }>("GET", `apps/${slug}/serving`);
  await world.bench("PUT", `apps/${slug}/access`, {
    access: { ...access, limits: { ...access.limits, day: 0.00001 } },
  });
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    body: '{"message":"Hello"}',
  });
  expect(response.status).toBe(429);
  expect(Number(response.headers.get("retry-after"))).toBeGreaterThan(0);
  expect(await response.json()).toMatchObject({
    kind: "over-limit",
    detail: "Thrifty has reached what all of its replies may cost in a day.",
  });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(page.getByText(/Thrifty may spend 0\.0000 EUR a day/)).toBeVisible();
  await expect(build.message).toHaveValue("Hello");
});

test("what is too long for the window is mended in its place", async ({ page, world }) => {
  const slug = await appOn(world, "Lantern", { kind: "everything" }, "Too long");
  let conversation: string | undefined;
  for (let turn = 1; turn < 40; turn += 1) {
    const answer = await ask(world, slug, {
      message: `Question ${turn}: when does the next boat to Tansy Holm leave, and how many bicycles may go on it?`,
      conversation,
    });
    if (answer.status !== 200) break;
    conversation = answer.conversation;
  }
  const build = buildOf(page, world);
  await build.open(slug, conversation);
  await build.message.fill("And when does the last boat of the day come back from there, with two bicycles and a dog?");
  const note = page.getByRole("alert").filter({ hasText: "too many" });
  await expect(note).toContainText(/About \d+ tokens would be sent/);
  await expect(page.getByRole("button", { name: "Send", exact: true })).toBeDisabled();
  await note.getByRole("button", { name: /^carry as many of the newest turns as fit/ }).click();
  await expect(note).toBeHidden();
  await page.keyboard.press("Alt+3");
  await expect(page.getByRole("spinbutton", { name: "Tokens that the turns may have" })).toBeVisible();
  await page.getByRole("button", { name: "Send", exact: true }).click();
  await expect(build.rows.last()).toHaveAccessibleName(/reply, complete/);
});

test("a prompt that is too long by itself says so on its row", async ({ page, world }) => {
  const provider = await world.wire("Lantern");
  const prompt = "Answer passengers from the timetable, and say when you do not know. ".repeat(90);
  const slug = await world.makeApp("Long prompt", { provider, model: "lantern-one", prompt });
  const build = buildOf(page, world);
  await build.open(slug);
  await expect(build.prompt).toContainText(/The prompt alone is about [\d,]+ tokens too long for the window/);
});

test("a turn without an answer says so, and is asked again where it stands", async ({ page, world }) => {
  await world.fault({ fault: "slow-start", ms: 20_000, calls: 1 });
  const slug = await world.makeApp("Unanswered");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("My name is Ivo.");
  await expect(build.reply(1, "waiting")).toBeVisible();
  await page.keyboard.press("Escape");
  const said = page.getByRole("article", { name: /^Turn 1, visitor/ });
  await expect(said).toContainText("not carried: the turn has no answer");
  await said.getByRole("button", { name: "ask again" }).click();
  await expect(build.reply(1, "complete")).toContainText("Ivo");
  await expect(said).not.toContainText("not carried");
});

test("where each model remembers its own, a line is cleared for one of them alone", async ({ page, world }) => {
  await world.wire("Saltpan");
  const slug = await world.makeApp("Apart", { memory: { kind: "everything", apart: true } });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("My name is Ivo.");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.reply(1).getByRole("button", { name: "clear below for reed-swift alone" }).click();
  await expect(page.getByRole("note").filter({ hasText: "Cleared for reed-swift on Reedbed" })).toBeVisible();
  const first = page.getByRole("article", { name: "Turn 1, visitor" });
  await expect(first).toContainText("not carried: it stands above a clear");
  await build.say("What is my name?");
  await expect(build.reply(2, "complete")).not.toContainText("Ivo");
  await page.getByRole("button", { name: "delete it" }).click();
  await expect(first).toHaveAttribute("data-carried", "true");
});
