import { chromium } from "@playwright/test";
import { browserArguments, findBrowser } from "./scripts/find-browser.mjs";
export const address = "http://127.0.0.1:4800";
export async function open() {
  const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on("pageerror", (e) => console.log("PAGEERROR", e.message));
  page.on("console", (m) => m.type() === "error" && console.log("CONSOLE", m.text()));
  return { browser, page };
}
