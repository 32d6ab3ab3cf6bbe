import { type Browser, type CDPSession, chromium, type Page } from "@playwright/test";
import { browserArguments, findBrowser } from "../scripts/find-browser.mjs";
import { quantile, type Rig, read } from "./rig";
import type { Row } from "./row";
import { longConversationIn } from "./stores";

const rounds = 7;
const fewReplies = 10;
const manyReplies = 200;
const atOnce = 10;

/** What a tab of the bench takes: the first paint of a long conversation ÷ a short one, and its memory after replies of others. */
export async function tabRows(rig: Rig): Promise<Row[]> {
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  try {
    return [await paintRow(browser, rig), await memoryRow(browser, rig)];
  } finally {
    await browser.close();
  }
}

async function paintRow(browser: Browser, rig: Rig): Promise<Row> {
  const replies = await rig.makeApp(100, 10);
  const app = rig.idOf(replies);
  const [short = "", long = ""] = [100, 10_000].map((messages) => longConversationIn(rig.folder, app, messages));
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const times = { short: [] as number[], long: [] as number[] };
  for (let round = 0; round <= rounds; round++) {
    const [one, other] = [await painted(page, rig, replies, short, 50), await painted(page, rig, replies, long, 5_000)];
    // the first time also fetches the scripts
    if (round === 0) continue;
    times.short.push(one);
    times.long.push(other);
  }
  await page.close();
  return {
    what: "browser: first paint of a conversation of 10,000 messages ÷ 100",
    ratio: quantile(times.long, 0.5) / quantile(times.short, 0.5),
    bar: 1.5,
    isMost: true,
  };
}

/** Milliseconds until the last turn of a conversation stands on the page. */
async function painted(page: Page, rig: Rig, replies: string, conversation: string, turns: number): Promise<number> {
  await page.goto(rig.buildOf(replies).replace("new", conversation));
  await page.getByRole("article", { name: `Turn ${turns}, reply, complete` }).waitFor();
  return page.evaluate(() => performance.now());
}

async function memoryRow(browser: Browser, rig: Rig): Promise<Row> {
  const replies = await rig.makeApp(2_000, 400);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const session = await page.context().newCDPSession(page);
  await page.goto(rig.buildOf(replies));
  await page.getByRole("textbox", { name: "Message" }).waitFor();
  const others = async (count: number) => {
    for (let asked = 0; asked < count; asked += atOnce)
      await Promise.all(Array.from({ length: atOnce }, () => read(replies, JSON.stringify({ message: "Hello" }))));
  };
  await others(fewReplies);
  const few = await heap(session);
  await others(manyReplies - fewReplies);
  const many = await heap(session);
  await page.close();
  return {
    what: `browser: a tab's memory after ${manyReplies} replies of others ÷ ${fewReplies}`,
    ratio: many / few,
    bar: 1.2,
    isMost: true,
  };
}

/** Bytes of JavaScript that are in use. */
async function heap(session: CDPSession): Promise<number> {
  await session.send("HeapProfiler.enable");
  await session.send("HeapProfiler.collectGarbage");
  const { usedSize } = await session.send("Runtime.getHeapUsage");
  return usedSize;
}
