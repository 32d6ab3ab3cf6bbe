import { gzipSync } from "node:zlib";
import { type Browser, chromium } from "@playwright/test";
import { browserArguments, findBrowser } from "../scripts/find-browser.mjs";
import { EmptyApp } from "./empty-app";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";

const rounds = 3;
/** Events of a table that are enough to show it. */
const rate = 100;
const count = 400;

/**
 * The visitors' page beside an empty page of the framework: its JavaScript until text and a table are shown, and
 * what Lighthouse says of both.
 */
export async function pageRows(rig: Rig): Promise<Row[]> {
  const replies = await rig.makeApp(rate, count, "chat-completions", "table");
  const slug = new URL(replies).pathname.split("/")[3];
  const page = `${rig.app}/talk/${slug}`;
  const empty = await EmptyApp.make();
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  try {
    const bytes = await scriptUntilTable(browser, page);
    const bench = await scriptOf(browser, `${rig.app}/apps/${slug}/build`);
    const least = await scriptOf(browser, empty.address);
    const scores = { page: [] as Scores[], empty: [] as Scores[] };
    for (let round = 0; round < rounds; round++) {
      scores.page.push(await lighthouseOf(page));
      scores.empty.push(await lighthouseOf(empty.address));
    }
    const median = (all: Scores[], what: keyof Scores) =>
      quantile(
        all.map((each) => each[what]),
        0.5,
      );
    return [
      {
        what: "page: JavaScript that it loads until text and a table are shown, gzipped ÷ an empty page of the framework",
        ratio: bytes / least,
        bar: 1.4,
        isMost: true,
      },
      {
        what: "bench: JavaScript that Build loads, gzipped ÷ an empty page of the framework",
        ratio: bench / least,
        bar: 3.4,
        isMost: true,
      },
      {
        what: `page: Lighthouse's performance, median of ${rounds} ÷ that of an empty page`,
        ratio: median(scores.page, "performance") / median(scores.empty, "performance"),
        bar: 0.95,
        isMost: false,
      },
      {
        what: "page: Lighthouse's accessibility ÷ 100",
        ratio: median(scores.page, "accessibility") / 100,
        bar: 1,
        isMost: false,
      },
    ];
  } finally {
    await browser.close();
    empty.stop();
  }
}

/** Scores from 0 to 100. */
interface Scores {
  performance: number;
  accessibility: number;
}

async function lighthouseOf(url: string): Promise<Scores> {
  const { default: lighthouse } = await import("lighthouse");
  const { launch } = await import("chrome-launcher");
  const chrome = await launch({
    chromePath: findBrowser(),
    chromeFlags: ["--headless=new", ...browserArguments],
    logLevel: "error",
  });
  try {
    const ran = await lighthouse(url, {
      port: chrome.port,
      onlyCategories: ["performance", "accessibility"],
      logLevel: "error",
    });
    const score = (name: string) => Math.round((ran?.lhr.categories[name]?.score ?? 0) * 100);
    return { performance: score("performance"), accessibility: score("accessibility") };
  } finally {
    chrome.kill();
  }
}

/** Bytes of all scripts that a page loads, gzipped, until something is shown in it. */
async function scriptOf(browser: Browser, url: string, show = async (_page: import("@playwright/test").Page) => {}) {
  const page = await browser.newPage();
  const scripts: Promise<number>[] = [];
  page.on("response", (response) => {
    if (response.headers()["content-type"]?.includes("javascript"))
      scripts.push(response.body().then((body) => gzipSync(body, { level: 9 }).length));
  });
  await page.goto(url, { waitUntil: "networkidle" });
  await show(page);
  const sizes = await Promise.all(scripts);
  await page.close();
  return sizes.reduce((sum, size) => sum + size, 0);
}

function scriptUntilTable(browser: Browser, url: string): Promise<number> {
  return scriptOf(browser, url, async (page) => {
    await page.getByRole("textbox").fill("Which boats are there?");
    await page.keyboard.press("Enter");
    await page.locator("td").nth(5).waitFor();
  });
}
