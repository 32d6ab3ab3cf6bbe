import { type CDPSession, chromium, type Page } from "@playwright/test";
import { assemble } from "@/core/context/assemble";
import { rowsOf } from "@/core/context/outline";
import type { Memory } from "@/core/context/policies/policies";
import { reachOf } from "@/core/context/reach";
import { trackOf } from "@/core/context/track";
import { uncalibrated } from "@/core/tokens/calibration";
import { HistoryReader } from "@/server/archive/history-reader";
import { hangingOn } from "@/server/conversations/line";
import type { Home } from "@/server/home";
import { browserArguments, findBrowser } from "../scripts/find-browser.mjs";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";
import { content, inFolder, longConversation, longConversationIn, timed } from "./stores";

const by = { provider: "P", model: "m" };
const lastTen: Memory = { kind: "last-turns", turns: 10 };
const typed = "And which boat takes them on a Sunday?";
const rounds = 7;

/** The reach and what it costs: over long lines, at sending, at a keystroke, at a change of the memory. */
export async function memoryRows(rig: Rig): Promise<Row[]> {
  const stores = await inFolder((home, app) => [reachRow(home, app), sendingRow(home, app)]);
  return [...stores, ...(await tabRows(rig))];
}

function reachRow(home: Home, app: string): Row {
  const reader = new HistoryReader(home.database);
  const took = [1_000, 10_000].map((messages) => {
    const conversation = longConversation(home.database, app, messages);
    const rows = rowsOf(reader.outline(home.conversations.byId(conversation)?.tip ?? ""));
    const memory: Memory = { kind: "fitting", tokens: 2_000 };
    return timed(() => reachOf(trackOf({ rows }, memory, uncalibrated, by), [], { window: 8_000, maxOutput: 500 }), 60);
  });
  return row("the reach over 10,000 rows ÷ 1,000", (took[1] ?? 0) / (took[0] ?? 1), 12);
}

function sendingRow(home: Home, app: string): Row {
  const took = [100, 10_000].map((messages) => {
    const conversation = longConversation(home.database, app, messages);
    const pinned = home.messages.line(home.conversations.byId(conversation)?.tip ?? "", 40)[0];
    if (pinned) home.pins.pin(conversation, pinned.id, 1);
    const tip = home.conversations.byId(conversation)?.tip ?? "";
    const said = home.messages.addVisitorMessage({
      conversation,
      parent: home.messages.message(tip),
      pieces: [{ kind: "text", text: typed }],
      now: 2,
    });
    return timed(() => {
      const hanging = hangingOn(home, conversation, said.id, lastTen);
      const asked = {
        content: { ...content, memory: lastTen },
        variables: {},
        by,
        window: 8_000,
        calibration: uncalibrated,
        now: 0,
      };
      const sent = assemble({ ...asked, ...hanging }, home.messages.lastTurns(said.id, 32));
      if (sent.kind !== "ready") throw new Error("It could not be assembled.");
    }, 200);
  });
  return row(
    "sending under “the last 10 turns”, one pinned, in 10,000 messages ÷ 100",
    (took[1] ?? 0) / (took[0] ?? 1),
    1.5,
  );
}

async function tabRows(rig: Rig): Promise<Row[]> {
  const replies = await rig.makeApp(100, 10);
  await rig.setMemory(replies, lastTen);
  const app = rig.idOf(replies);
  const [short = "", long = ""] = [100, 10_000].map((messages) => longConversationIn(rig.folder, app, messages));
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const session = await page.context().newCDPSession(page);
    await session.send("Performance.enable");
    const times = { short: [] as number[], long: [] as number[] };
    const frames: number[] = [];
    for (let round = 0; round <= rounds; round += 1) {
      const one = await keystrokes(page, session, rig.buildOf(replies).replace("new", short));
      const other = await keystrokes(page, session, rig.buildOf(replies).replace("new", long));
      // the first time also fetches the scripts
      if (round === 0) continue;
      times.short.push(one);
      times.long.push(other);
      frames.push(await framesOfChange(page));
    }
    return [
      row(
        "browser: a keystroke in the composer, 10,000 messages ÷ 100",
        quantile(times.long, 0.5) / quantile(times.short, 0.5),
        1.5,
      ),
      row("browser: frames until a changed memory shows on 10,000 rows ÷ 2", Math.max(...frames) / 2, 1),
    ];
  } finally {
    await browser.close();
  }
}

/** Seconds of the main thread that typing takes, once all of the conversation is at hand. */
async function keystrokes(page: Page, session: CDPSession, url: string): Promise<number> {
  const outline = page.waitForResponse((response) => response.url().endsWith("/outline"));
  await page.goto(url);
  await outline;
  const message = page.getByRole("textbox", { name: "Message" });
  await message.fill("");
  await page.waitForTimeout(300);
  const before = await work(session);
  await message.pressSequentially(typed, { delay: 20 });
  const after = await work(session);
  return after - before;
}

/** Frames from a change of the number of turns to the one that shows it. */
async function framesOfChange(page: Page): Promise<number> {
  if ((await page.getByRole("spinbutton", { name: "Turns that are carried" }).count()) === 0)
    await page.keyboard.press("Alt+3");
  await page.getByRole("spinbutton", { name: "Turns that are carried" }).waitFor();
  return page.evaluate(async () => {
    const field = document.querySelector<HTMLInputElement>('input[aria-label="Turns that are carried"]');
    if (!field) throw new Error("There is no such field.");
    const carried = document.getElementsByTagName("article");
    const before = [...carried].filter(({ dataset }) => dataset.carried === "true").length;
    const next = field.value === "5" ? "10" : "5";
    Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value")?.set?.call(field, next);
    field.dispatchEvent(new Event("input", { bubbles: true }));
    await new Promise(requestAnimationFrame);
    // a value in a sentence takes effect on Enter
    field.dispatchEvent(new KeyboardEvent("keydown", { key: "Enter", bubbles: true }));
    for (let frames = 0; frames < 100; frames += 1) {
      if ([...carried].filter(({ dataset }) => dataset.carried === "true").length !== before) return frames + 1;
      await new Promise(requestAnimationFrame);
    }
    throw new Error("Nothing changed.");
  });
}

async function work(session: CDPSession): Promise<number> {
  const { metrics } = await session.send("Performance.getMetrics");
  return metrics.find(({ name }) => name === "TaskDuration")?.value ?? 0;
}

function row(what: string, ratio: number, bar: number): Row {
  return { what, ratio, bar, isMost: true };
}
