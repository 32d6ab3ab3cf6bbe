import { type Browser, chromium } from "@playwright/test";
import type { Comparison } from "@/contract/comparisons";
import { factsIn } from "@/core/comparing/facts/facts";
import type { Content } from "@/core/revision/content";
import { browserArguments, findBrowser } from "../scripts/find-browser.mjs";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";

const rate = 60;
const seconds = 10;
const rounds = 3;
/** Words of a text whose facts are found, and the milliseconds that this may take. */
const words = 10_000;
const mostMs = 50;

/** The longest task in the browser while six lanes stream ÷ one; and finding the facts of a long text. */
export async function lanesRows(rig: Rig): Promise<Row[]> {
  const replies = await rig.makeApp(rate, rate * seconds);
  const slug = new URL(replies).pathname.split("/")[3] ?? "";
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  try {
    const ratios: number[] = [];
    for (let round = 0; round < rounds; round++) {
      const one = await longestTask(browser, rig, slug, 1);
      const six = await longestTask(browser, rig, slug, 6);
      ratios.push(six / one);
    }
    return [
      {
        what: "browser: longest task while six lanes stream ÷ one",
        ratio: quantile(ratios, 0.5),
        bar: 2,
        isMost: true,
      },
      { what: `facts of ${words} words ÷ ${mostMs} ms`, ratio: factsMs() / mostMs, bar: 1, isMost: true },
    ];
  } finally {
    await browser.close();
  }
}

/** The longest task while so many lanes stream; where there is but one, the other can't be asked. */
async function longestTask(browser: Browser, rig: Rig, slug: string, count: number): Promise<number> {
  const { draft } = (await (await fetch(`${rig.app}/api/bench/apps/${slug}`)).json()) as { draft: Content };
  const lane = (at: number) => ({ base: "live", content: { ...draft, settings: { ...draft.settings, seed: at } } });
  const lanes: { base: string; content: Content }[] = Array.from({ length: count }, (_, at) => lane(at));
  if (count === 1) lanes.push({ base: "live", content: { ...draft, provider: "nobody" } });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(() => {
    const seen = window as unknown as { __longest: number };
    seen.__longest = 0;
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) seen.__longest = Math.max(seen.__longest, duration);
    }).observe({ type: "longtask" });
  });
  const made = await fetch(`${rig.app}/api/bench/apps/${slug}/comparisons`, {
    method: "POST",
    body: JSON.stringify({ lanes, message: "When does the boat leave?" }),
  });
  if (!made.ok) throw new Error(await made.text());
  const { id } = (await made.json()) as Comparison;
  await page.goto(`${rig.app}/apps/${slug}/compare?comparison=${id}`);
  await page.getByRole("button", { name: "Stop all" }).waitFor();
  // opening the view is not what is measured
  await page.waitForTimeout(1_000);
  await page.evaluate(() => {
    (window as unknown as { __longest: number }).__longest = 0;
  });
  await page.getByRole("button", { name: "Stop all" }).waitFor({ state: "detached", timeout: 120_000 });
  const longest = await page.evaluate(() => (window as unknown as { __longest: number }).__longest);
  await page.close();
  // the browser tells of no task below this
  return Math.max(longest, 50);
}

function factsMs(): number {
  const sentences = [
    "The ferry to Far Skerry leaves at 7:25 a.m. and takes about three quarters of an hour.",
    "Each passenger may take one bag of up to 20 kg, and the crew helps those who say so a day before.",
    "The crossing to Tansy Holm takes 20 minutes, to Brindle 35 and to Far Skerry 1 h 10 min.",
    "Tickets are refunded in full until 24 hours before the sailing, and by half until one hour before it.",
  ];
  const text = Array.from({ length: words / 10 }, (_, at) => sentences[at % sentences.length])
    .join(" ")
    .split(" ")
    .slice(0, words)
    .join(" ");
  const times = Array.from({ length: 9 }, () => {
    const began = performance.now();
    if (factsIn(text).length === 0) throw new Error("The text states nothing.");
    return performance.now() - began;
  });
  return quantile(times.slice(2), 0.5);
}
