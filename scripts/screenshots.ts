import { spawn, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium, type Page } from "@playwright/test";
import { browserArguments, findBrowser } from "./find-browser.mjs";

/**
 * Takes the pictures in docs/screenshots from the demo data: a fresh data folder, the built
 * application, and the stand-in.
 */
const port = 4860;
const address = `http://127.0.0.1:${port}`;
const standIns = String(port + 1);
const folder = mkdtempSync(join(tmpdir(), "finch-pictures-"));
const out = "docs/screenshots";
const env = {
  ...process.env,
  NODE_ENV: "production" as const,
  FINCH_DATA: folder,
  FINCH_STANDINS: standIns,
  REEDBED_KEY: "reed-4f2a-sample",
};

mkdirSync(out, { recursive: true });
spawnSync(process.execPath, ["--import", "tsx", "scripts/seed.ts"], { env, stdio: "inherit" });
const servers = [
  spawn(process.execPath, ["--import", "tsx", "src/standins/main.ts"], { env, stdio: "ignore" }),
  spawn(process.execPath, ["node_modules/next/dist/bin/next", "start", "-p", String(port), "-H", "127.0.0.1"], {
    env,
    stdio: "ignore",
  }),
];
const browser = await chromium.launch({ executablePath: findBrowser(), args: browserArguments });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await opened(page);
  await build(page, "build.png");
  await page.goto(`${address}/apps/quay-desk/history`);
  await page.getByRole("listitem").first().waitFor();
  await page.screenshot({ path: `${out}/history.png` });
  await page.goto(`${address}/providers`);
  await page.getByText("It answers").waitFor();
  await page.screenshot({ path: `${out}/providers.png` });
  await page.goto(`${address}/apps`);
  await page.getByRole("link", { name: "Quay Desk" }).waitFor();
  await page.screenshot({ path: `${out}/apps.png` });
  await page.context().addCookies([{ name: "finch_theme", value: "dark", url: address }]);
  await build(page, "build-dark.png");
} finally {
  await browser.close();
  for (const server of servers) server.kill("SIGKILL");
  rmSync(folder, { recursive: true, force: true });
}

/** Build in the middle of a reply, with the Model station open. */
async function build(page: Page, name: string): Promise<void> {
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
  await page.screenshot({ path: `${out}/${name}` });
  await page.keyboard.press("Escape");
  await page
    .getByRole("article", { name: "Turn 3, reply, stopped" })
    .or(page.getByRole("article", { name: "Turn 3, reply, complete" }))
    .waitFor();
  await message.fill("");
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
