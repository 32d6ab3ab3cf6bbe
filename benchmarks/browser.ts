import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { type Browser, type CDPSession, chromium, type Page } from "@playwright/test";
import { heavyBodies } from "@/ui/shared/markdown/test/bodies";
import { browserArguments, findBrowser } from "../scripts/find-browser.mjs";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";

const rate = 400;
const early = [400, 600] as const;
const late = [9_900, 10_100] as const;
const rounds = 3;

/** What the browser works for some chunks late in a long reply ÷ for as many early in it: for paragraphs, one fence, one table. */
export async function browserRows(rig: Rig): Promise<Row[]> {
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  const rows: Row[] = [];
  try {
    for (const matter of ["prose", "fence", "table"] as const) {
      const replies = await rig.makeApp(rate, late[1] + rate, "chat-completions", matter);
      const ratios: number[] = [];
      for (let round = 0; round < rounds; round++) {
        const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
        ratios.push(await ratioOf(page, rig, replies));
        await page.close();
      }
      rows.push({
        what: `browser: script, style and layout for chunks ${late.join(" to ")} of a reply ÷ ${early.join(" to ")}, ${matter}`,
        ratio: quantile(ratios, 0.5),
        bar: 1.5,
        isMost: true,
      });
    }
  } finally {
    await browser.close();
  }
  return rows;
}

async function ratioOf(page: Page, rig: Rig, replies: string): Promise<number> {
  const metrics = await page.context().newCDPSession(page);
  await metrics.send("Performance.enable");
  await page.goto(rig.buildOf(replies));
  const message = page.getByRole("textbox", { name: "Message" });
  await message.fill("When does the boat leave?");
  await message.press("Enter");
  await page.getByRole("article", { name: "Turn 1, reply, arriving" }).waitFor();
  const began = performance.now();
  const workAt = async (chunk: number) => {
    await page.waitForTimeout(Math.max(began + (chunk / rate) * 1000 - performance.now(), 0));
    return work(metrics);
  };
  const worked: number[] = [];
  for (const chunk of [...early, ...late]) worked.push(await workAt(chunk));
  const [from = 0, to = 0, lateFrom = 0, lateTo = 0] = worked;
  return (lateTo - lateFrom) / (to - from);
}

/** The longest task while a heavy reply is opened ÷ while a short one is, each the best of two. */
export async function longestTaskRows(rig: Rig): Promise<Row[]> {
  const texts = ["The boat leaves at 9:40.", ...heavyBodies.map(({ text }) => text)];
  const provider = createServer(async (request, response) => {
    let asked = "";
    for await (const part of request) asked += part;
    const { messages = [] } = asked === "" ? {} : (JSON.parse(asked) as { messages: { content: string }[] });
    const content = texts[Number(messages.at(-1)?.content)] ?? "";
    response.writeHead(200, { "content-type": "application/json" });
    response.end(JSON.stringify({ choices: [{ message: { content }, finish_reason: "stop" }] }));
  });
  await new Promise<void>((resolve) => provider.listen(0, "127.0.0.1", resolve));
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  try {
    const replies = await rig.makeBodies(`http://127.0.0.1:${(provider.address() as AddressInfo).port}`);
    const longest: number[] = [];
    for (const [at] of texts.entries()) {
      const answer = await fetch(replies, { method: "POST", body: JSON.stringify({ message: String(at) }) });
      const { conversation } = (await answer.json()) as { conversation: string };
      const url = rig.buildOf(replies).replace("new", conversation);
      longest.push(Math.min(await longestTask(browser, url), await longestTask(browser, url)));
    }
    const [short = 1, ...heavy] = longest;
    const worst = Math.max(...heavy);
    console.log(
      `longest task: ${Math.round(short)} ms for a short reply; over ${heavy.length} heavy ones ${Math.round(worst)} ms (${heavyBodies[heavy.indexOf(worst)]?.name}), and above 200 ms for ${heavy.filter((each) => each > 200).length}`,
    );
    return [
      {
        what: `browser: longest task while one of ${heavy.length} heavy replies is opened ÷ a short one`,
        ratio: worst / short,
        bar: 2,
        isMost: true,
      },
    ];
  } finally {
    await browser.close();
    provider.close();
  }
}

async function longestTask(browser: Browser, url: string): Promise<number> {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(() => {
    const seen = window as unknown as { __longest: number };
    seen.__longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) seen.__longest = Math.max(seen.__longest, duration);
    }).observe({ type: "longtask", buffered: true });
  });
  await page.goto(url);
  await page.getByRole("article", { name: "Turn 1, reply, complete" }).waitFor();
  await page.waitForFunction(() => !document.querySelector("article [aria-busy=true]"), undefined, {
    timeout: 120_000,
  });
  const longest = await page.evaluate(() => (window as unknown as { __longest: number }).__longest);
  await page.close();
  return Math.max(longest, 50);
}

/** Seconds that the page has spent on scripts, styles and layout so far. */
async function work(session: CDPSession): Promise<number> {
  const { metrics } = await session.send("Performance.getMetrics");
  return metrics
    .filter(({ name }) => ["ScriptDuration", "RecalcStyleDuration", "LayoutDuration"].includes(name))
    .reduce((sum, { value }) => sum + value, 0);
}
