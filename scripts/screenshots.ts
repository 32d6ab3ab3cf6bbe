import { spawn, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { parseEnv } from "node:util";
import { chromium, type Page } from "@playwright/test";
import { browserArguments, findBrowser } from "./find-browser.mjs";
import { freePorts } from "./free-ports";
import { server, standInServer } from "./prepare.mjs";

/**
 * Takes the pictures in docs/screenshots from the demo data: a fresh data folder, the built
 * application, and the stand-ins.
 */
const port = await freePorts(7);
const address = `http://127.0.0.1:${port}`;
const standIns = String(port + 1);
const folder = mkdtempSync(join(tmpdir(), "finch-pictures-"));
const out = "docs/screenshots";
const env = {
  ...process.env,
  NODE_ENV: "production" as const,
  FINCH_DATA: folder,
  FINCH_HOST: "127.0.0.1",
  FINCH_PORT: String(port),
  FINCH_STANDINS: standIns,
  ...parseEnv(readFileSync(".env.example", "utf8")),
};

mkdirSync(out, { recursive: true });
spawnSync(process.execPath, ["--import", "tsx", "scripts/seed.ts"], { env, stdio: "inherit" });
const servers = [
  spawn(...standInServer(), { env, stdio: "ignore" }),
  spawn(process.execPath, ["--import", "tsx", "scripts/demo-site.ts"], { env, stdio: "ignore" }),
  spawn(...server(), { env, stdio: "ignore" }),
];
const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await opened(page);
  await tools(page);
  await typed(page);
  await build(page);
  await page.goto(`${address}/apps/quay-desk/history?words=bicycle`);
  await page.getByRole("listitem").last().getByRole("button").first().click();
  await page.locator("mark").first().waitFor();
  await page.screenshot({ path: `${out}/history.png` });
  await dispatch(page);
  await serve(page);
  await providers(page);
  await fit(page);
  await compare(page);
  await page.goto(`${address}/apps`);
  await page.getByRole("link", { name: "Quay Desk" }).waitFor();
  await page.screenshot({ path: `${out}/apps.png` });
  await page.context().addCookies([{ name: "finch_theme", value: "dark", url: address }]);
  await guards(page);
  await page.context().clearCookies();
  await memory(page);
  await summary(page);
  await set(page);
  await duet(page);
  await checks(page);
  await sources(page);
} finally {
  await browser.close();
  for (const server of servers) server.kill("SIGKILL");
  rmSync(folder, { recursive: true, force: true });
}

/** Build in the middle of a reply, with the Model station open. */
async function build(page: Page): Promise<void> {
  await page.goto(`${address}/apps/quay-desk/build?conversation=new`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.waitFor();
  const say = async (text: string, turn: number) => {
    await message.fill(text);
    await page.keyboard.press("Enter");
    await page.getByRole("article", { name: `Turn ${turn}, reply, complete` }).waitFor();
  };
  await page.keyboard.press("Alt+5");
  await say("I'm Ivo, I'm on the 9:40 with two bicycles and a dog.", 1);
  await say("Which morning boats to Tansy Holm take bicycles on Sunday?", 2);
  await message.fill("Tell me about the ferry in a story, please.");
  await page.keyboard.press("Enter");
  await message.fill("And if the 9:40 is full, can I keep the");
  await page.waitForTimeout(3500);
  await page.screenshot({ path: `${out}/build.png` });
  await page.keyboard.press("Escape");
  await page
    .getByRole("article", { name: "Turn 3, reply, stopped" })
    .or(page.getByRole("article", { name: "Turn 3, reply, complete" }))
    .waitFor();
  await message.fill("");
}

/** A guard that is tried on stored conversations, and a reply to which it masked what was sent; in the dark theme. */
async function guards(page: Page): Promise<void> {
  await page.goto(`${address}/apps/quay-desk/build?conversation=new`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.waitFor();
  const say = async (text: string, turn: number) => {
    await message.fill(text);
    await page.keyboard.press("Enter");
    await page.getByRole("article", { name: `Turn ${turn}, reply, complete` }).waitFor();
  };
  await say("Good day, this is ivo@saltmarsh.example.", 1);
  await page.keyboard.press("Alt+1");
  await page.getByRole("button", { name: "add a guard" }).click();
  await page.getByRole("textbox", { name: "Name of the guard" }).fill("Addresses");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "try it on stored messages" }).click();
  await page.getByText("all that there are").waitFor();
  await page.getByRole("combobox", { name: "Whether the guard is on" }).click();
  await page.getByText("on", { exact: true }).last().click();
  await say("My e-mail is ivo@saltmarsh.example", 2);
  await say("What is my e-mail?", 3);
  await page.screenshot({ path: `${out}/guards.png` });
  await page.getByRole("button", { name: "delete it" }).click();
}

/** A reply that asked tools, one of which waits for leave. */
async function tools(page: Page): Promise<void> {
  await page.goto(`${address}/apps/quay-desk/build?conversation=new`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.waitFor();
  await page.keyboard.press("Alt+5");
  await message.fill("How many seats are left on the 9:40 sailing?");
  await page.keyboard.press("Enter");
  await page.getByRole("article", { name: "Turn 1, reply, complete" }).waitFor();
  await message.fill("Book 2 seats on the 9:40, please.");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Allow it" }).waitFor();
  await page.getByRole("button", { name: "places_left" }).first().click();
  await page.screenshot({ path: `${out}/tools.png` });
  await page.getByRole("button", { name: "Allow it" }).click();
  await page.getByRole("article", { name: "Turn 2, reply, complete" }).waitFor();
}

/** A reply that is data, with the schema that it fits. */
async function typed(page: Page): Promise<void> {
  await page.goto(`${address}/apps/logbook/build?conversation=new`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.waitFor();
  await message.fill("10:20 off Tansy Holm, wind east 5, all passengers ashore, two bicycles stayed behind");
  await page.keyboard.press("Enter");
  await page.getByRole("article", { name: "Turn 1, reply, complete" }).waitFor();
  await page.getByRole("list", { name: "Signal path" }).getByRole("button", { name: "Model" }).click();
  const form = page.getByRole("region", { name: "Form of the reply" });
  await form.getByRole("button", { name: "an entry of the log" }).click();
  await form.locator(".cm-content").waitFor();
  await page.screenshot({ path: `${out}/typed.png` });
}

/** Opens the conversation of sixty turns. */
async function openLong(page: Page): Promise<void> {
  const { conversations } = (await (
    await fetch(`${address}/api/bench/apps/quay-desk/conversations?words=wheelchair`)
  ).json()) as {
    conversations: { id: string; turnCount: number }[];
  };
  const { id } = conversations.find(({ turnCount }) => turnCount >= 60) ?? { id: "new" };
  await page.goto(`${address}/apps/quay-desk/build?conversation=${id}`);
  await page.getByRole("article", { name: "Turn 60, reply, complete" }).waitFor();
}

/** The summary of its older turns, in their place. */
async function summary(page: Page): Promise<void> {
  await openLong(page);
  await page.keyboard.press("Alt+3");
  await page.getByRole("combobox", { name: "What is carried" }).click();
  await page.getByText("a summary of what is older, and the newest", { exact: true }).click();
  await page.getByRole("spinbutton", { name: "Turns that are carried in full" }).fill("3");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "sum up now" }).click();
  const row = page.getByRole("article", { name: "Summary of the turns up to 58" });
  await row.waitFor();
  await page.getByRole("textbox", { name: "Message" }).fill("And what was my brother's name?");
  await row.scrollIntoViewIfNeeded();
  await row.hover();
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${out}/summary.png` });
}

/** The memory of the conversation of sixty turns, with its ledger; then the revisions. */
async function memory(page: Page): Promise<void> {
  await openLong(page);
  await page.keyboard.press("Alt+3");
  await page.getByRole("combobox", { name: "What is carried" }).click();
  await page.getByText("the last turns", { exact: true }).click();
  await page.getByRole("spinbutton", { name: "Turns that are carried" }).fill("2");
  await page.keyboard.press("Enter");
  const old = page.getByRole("article", { name: "Turns 31 to 58, folded" });
  await old.getByRole("button", { name: "show them" }).click();
  await page.getByRole("article", { name: "Turn 57, visitor" }).getByRole("button", { name: "pin" }).press("Enter");
  await page.getByRole("article", { name: "Turn 57, visitor" }).getByText("pinned").waitFor();
  await page.getByRole("textbox", { name: "Message" }).fill("And when do we have to be at the ramp?");
  await page.getByRole("button", { name: "ledger" }).click();
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${out}/memory.png` });
  await page.getByRole("button", { name: "ledger" }).click();
  await page.getByRole("button", { name: "Send", exact: true }).click();
  await page.getByRole("article", { name: "Turn 61, reply, complete" }).waitFor();
  await page.keyboard.press("Alt+2");
  await page.getByRole("button", { name: "revisions", exact: true }).first().click();
  await page.getByRole("textbox", { name: "Note on revision 2" }).fill("does it need more than two turns?");
  await page.keyboard.press("Enter");
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${out}/revisions.png` });
}

/** The dispatch of a reply, with its arrivals. */
async function dispatch(page: Page): Promise<void> {
  await page.goto(`${address}/apps/quay-desk/build?conversation=new`);
  await page.getByRole("textbox", { name: "Message" }).fill("Which boats to Brindle take bicycles on Sunday?");
  await page.keyboard.press("Enter");
  const reply = page.getByRole("article", { name: "Turn 1, reply, complete" });
  await reply.waitFor();
  await reply.getByRole("button", { name: /^Dispatch/ }).click();
  await page.getByRole("img", { name: /^At the server/ }).waitFor();
  await page.screenshot({ path: `${out}/dispatch.png` });
}

/** Serve after some calls, and the visitors' page in the middle of a conversation. */
async function serve(page: Page): Promise<void> {
  const say = (message: string, headers: Record<string, string>) =>
    fetch(`${address}/api/apps/quay-desk/replies`, { method: "POST", headers, body: JSON.stringify({ message }) }).then(
      (response) => response.text(),
    );
  await say("Do dogs pay on the 9:40?", { "finch-visitor": "ottil-31", "finch-client": "desk-7" });
  await say("When does the first boat to Brindle leave?", {
    "finch-visitor": "wren",
    "finch-client": "timetable-board",
  });
  await say("Hello", { origin: "http://localhost:5173" });
  await page.goto(`${address}/talk/quay-desk`);
  const field = page.getByRole("textbox");
  for (const text of [
    "I'm on the 9:40 with two bicycles.",
    "Which boats go to Tansy Holm on Sunday? As a table, please.",
  ]) {
    await field.fill(text);
    await page.keyboard.press("Enter");
    await page.locator('.talk-row[data-role="app"][data-state="complete"]').last().waitFor();
    await page.getByRole("button", { name: "Send" }).waitFor();
  }
  await page.screenshot({ path: `${out}/page.png` });
  await page.goto(`${address}/apps/quay-desk/serve`);
  await page.frameLocator("iframe").getByRole("article").last().waitFor();
  await page.getByRole("button", { name: "Send it" }).click();
  await page.getByText(/ended after/).waitFor();
  await page.getByRole("row").nth(1).getByText("complete").waitFor();
  await page.screenshot({ path: `${out}/serve.png` });
}

/** A provider with both texts, probed. */
async function providers(page: Page): Promise<void> {
  await page.goto(`${address}/providers`);
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: /^Saltpan/ })
    .click();
  await page.getByRole("button", { name: "ask it now" }).click();
  await page.getByText("asked just now").waitFor();
  await page.getByRole("button", { name: "Probe it" }).click();
  await page.getByText("nothing is wrong").waitFor();
  await page.screenshot({ path: `${out}/providers.png` });
}

/** A command that is fitted, with a question left. */
async function fit(page: Page): Promise<void> {
  await page.getByRole("button", { name: "Wire another" }).click();
  const said = (voice: string, words: string) => ({ voice, parts: [{ words }] });
  const course = [
    said("harbour", "Speak like a skipper."),
    said("caller", "When is the first boat to Brindle?"),
    said("keeper", "At 7:20."),
    said("caller", "And the last?"),
  ];
  const body = JSON.stringify({ tide: "tide-neap", course, trim: { ceiling: 300, heat: 0.2 } });
  await page
    .getByRole("textbox", { name: "A command that works" })
    .fill(
      `curl "${address.replace(String(port), String(port + 3))}/tides/flow?pass=$TIDEGATE_KEY" -H 'content-type: application/json' -d '${body}'`,
    );
  await page.getByRole("button", { name: "Make the call" }).click();
  await page.getByText("What does that mean?").waitFor();
  await page.screenshot({ path: `${out}/fit.png` });
}

async function opened(page: Page): Promise<void> {
  for (let tries = 0; tries < 100; tries++) {
    const isUp = await page.goto(address).then(
      () => true,
      () => false,
    );
    if (isUp) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`${address} does not answer.`);
}

/** The comparison of the demo. It takes the tools out of the draft, which not all models can be offered. */
async function compare(page: Page): Promise<void> {
  await page.goto(`${address}/apps/quay-desk/compare`);
  await page.getByRole("button", { name: "1 saved comparison" }).click();
  await page.getByRole("link", { name: "bicycles, before the summer" }).click();
  await page.getByRole("table", { name: "Facts of turn 1" }).waitFor();
  await page.getByRole("region", { name: "Conversation" }).evaluate((sheet) => {
    sheet.scrollTop = 0;
  });
  await page
    .getByRole("button", { name: /^reed-swift states 17:30/ })
    .first()
    .click();
  await page.locator("mark").first().waitFor();
  await page.getByRole("region", { name: "Conversation" }).evaluate((sheet) => {
    sheet.scrollTop = 0;
  });
  await page.screenshot({ path: `${out}/compare.png` });
  // two of the six can't be offered tools
  const app = `${address}/api/bench/apps/quay-desk`;
  const { draft, draftHash } = (await (await fetch(app)).json()) as { draft: object; draftHash: string };
  const content = { ...draft, tools: undefined };
  await fetch(`${app}/draft`, { method: "PUT", body: JSON.stringify({ content, draftHash }) });
}

/** A set of messages for three candidates, with the spread of their figures. It changes the draft. */
async function set(page: Page): Promise<void> {
  const app = `${address}/api/bench/apps/quay-desk`;
  const { draft, draftHash } = (await (await fetch(app)).json()) as { draft: { prompt: string }; draftHash: string };
  const content = {
    ...draft,
    prompt: `${draft.prompt}\nSay what each bicycle costs whenever bicycles are asked about.`,
  };
  await fetch(`${app}/draft`, { method: "PUT", body: JSON.stringify({ content, draftHash }) });
  const { providers } = (await (await fetch(`${address}/api/bench/providers`)).json()) as {
    providers: { name: string; slug: string }[];
  };
  const tidegate = providers.find(({ name }) => name === "Tidegate")?.slug;
  const lanes = [{}, { model: "reed-swift" }, { provider: tidegate, model: "tide-wide" }].map((change) => ({
    base: "draft",
    content: { ...content, ...change },
  }));
  const rows = [
    ["Which morning boats to Tansy Holm take bicycles on Sunday?"],
    ["What does a dog cost?", "And two dogs?"],
    ["How much is a return to Brindle?"],
    ["How long does the crossing to Far Skerry take?"],
    ["I'm on the 9:40 with two bicycles. What do they cost?"],
    ["May I bring a wheelchair?"],
    ["What happens if I cancel on the same day?"],
    ["When does the last boat leave Tansy Holm on Sunday?"],
  ];
  const made = await fetch(`${app}/sets`, {
    method: "POST",
    body: JSON.stringify({ lanes, rows, name: "before the summer" }),
  });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`${address}/apps/quay-desk/compare?set=${id}`);
  await page.getByText("asked 24 of 24 answers").waitFor();
  await page.getByRole("button", { name: "spread" }).click();
  await page.locator(".recharts-errorBar").first().waitFor();
  await page.screenshot({ path: `${out}/set.png` });
}

/** A passenger and the desk in conversation, which ends with a goodbye. */
async function duet(page: Page): Promise<void> {
  const app = `${address}/api/bench/apps/quay-desk`;
  const { draft } = (await (await fetch(app)).json()) as { draft: object };
  const { first, name, ...rest } = JSON.parse(readFileSync("demo/duets/goodbye.json", "utf8"));
  const sides = [first, {}].map((change) => ({ base: "draft", content: { ...draft, ...change } }));
  const made = await fetch(`${app}/duets`, {
    method: "POST",
    body: JSON.stringify({ ...rest, name, sides, rounds: 10 }),
  });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`${address}/apps/quay-desk/compare?duet=${id}`);
  await page.getByText("It ended by itself: both said goodbye.").first().waitFor();
  await page.screenshot({ path: `${out}/duet.png` });
}

/** Checks of a draft without the limit of sentences, which remembers two turns, against the live revision. */
async function checks(page: Page): Promise<void> {
  const app = `${address}/api/bench/apps/quay-desk`;
  const { draft, draftHash } = (await (await fetch(app)).json()) as { draft: { prompt: string }; draftHash: string };
  const prompt = draft.prompt.replace("Answer in at most five sentences.\n", "");
  const content = { ...draft, prompt, memory: { kind: "last-turns", turns: 2 } };
  await fetch(`${app}/draft`, { method: "PUT", body: JSON.stringify({ content, draftHash }) });
  for (let at = 0; at < 5; at++)
    await fetch(`http://127.0.0.1:${port + 1 + at}/standin/pace`, {
      method: "PUT",
      body: JSON.stringify({ pace: "instant" }),
    });
  await page.goto(`${address}/apps/quay-desk/checks`);
  const trials = page.getByRole("spinbutton", { name: "Trials of each check on each candidate" });
  await trials.fill("5");
  await trials.press("Enter");
  await page.getByRole("button", { name: /^Run 160 trials/ }).click();
  await page.getByText(/^\d+ of 160 trials held/).waitFor();
  await page.screenshot({ path: `${out}/checks.png` });
}

/** Build with the documents of Harbour Desk, what a message finds in them, and a reply whose citation is open. */
async function sources(page: Page): Promise<void> {
  await page.goto(`${address}/apps/harbour-desk/build?conversation=new`);
  const message = page.getByRole("textbox", { name: "Message" });
  await message.waitFor();
  await page.keyboard.press("Alt+4");
  await page.getByRole("row").filter({ hasText: "Harbour notes" }).getByRole("cell", { name: "93" }).waitFor();
  await message.fill("What is done with a dog in heavy weather?");
  await page.keyboard.press("Enter");
  const reply = page.getByRole("article", { name: "Turn 1, reply, complete" });
  await reply
    .getByRole("button", { name: /^Passage/ })
    .first()
    .click();
  await message.fill("Can my dog come on the 9:40?");
  const asked = page.getByRole("textbox", { name: "Question to try" });
  const found = page.getByRole("region", { name: "What a question finds" });
  for (let tries = 0; (await asked.inputValue()) !== "Can my dog come on the 9:40?" && tries < 100; tries++)
    await page.waitForTimeout(50);
  await found.getByRole("listitem").first().waitFor();
  await page.screenshot({ path: `${out}/sources.png` });
}
