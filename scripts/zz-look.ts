import { chromium } from "@playwright/test";
const base = "http://127.0.0.1:4700";
const out = "/tmp/look";
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-background-networking", "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("console", (m) => m.type() === "error" && console.log("console", m.text()));
const j = async (path: string, init?: RequestInit) => { const r = await fetch(base + path, { ...init, headers: { "content-type": "application/json" } }); const t = await r.text(); if (!r.ok) console.log(r.status, t); return t ? JSON.parse(t) : null; };
const app = await j("/api/bench/apps/quay-desk");
const list = await j("/api/bench/apps/quay-desk/conversations");
console.log(list.conversations.map((c: any) => [c.id, c.turnCount, c.opening.slice(0, 30)].join(" ")).join("\n"), app.draft.memory, app.draft.model);
const long = list.conversations.find((c: any) => c.turnCount >= 50);
const step = process.argv[2];
await page.goto(`${base}/apps/quay-desk/build?conversation=${long.id}`);
await page.waitForSelector("article");
await page.keyboard.press("Alt+3");
if (step === "choose") {
  await page.getByLabel("What is carried").click();
  await page.getByText("a summary of what is older", { exact: false }).last().click();
  await page.waitForTimeout(1000);
  await page.screenshot({ path: `${out}/s1.png` });
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "sum up now" }).scrollIntoViewIfNeeded();
  await page.screenshot({ path: `${out}/s2.png` });
  await page.getByRole("button", { name: "sum up now" }).click();
  await page.waitForTimeout(600);
  await page.screenshot({ path: `${out}/s3.png` });
  await page.waitForSelector("text=put it right", { state: "attached", timeout: 60000 });
  await page.waitForTimeout(5000);
  await page.getByRole("article", { name: /^Summary/ }).hover();
  await page.screenshot({ path: `${out}/s4.png` });
}
if (step === "more") {
  await page.keyboard.press("Escape");
  await page.getByRole("article", { name: /^Summary/ }).scrollIntoViewIfNeeded();
  await page.getByRole("article", { name: /^Summary/ }).hover();
  await page.screenshot({ path: `${out}/s5.png` });
  await page.getByRole("button", { name: /Dispatch of the summary/ }).click();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: `${out}/s6.png` });
}
await browser.close();
