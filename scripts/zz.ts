import { chromium } from "@playwright/test";
import { World } from "../e2e/world";
const world = await World.make();
await world.start();
const slug = await world.makeApp("Long");
const turns = Array.from({ length: 2_500 }, (_, at) => [{ role: "visitor", text: `Question ${at + 1}` }, { role: "app", text: `Answer ${at + 1}. `.repeat(1 + (at % 7)) }]).flat();
const file = Buffer.from(turns.map((line) => JSON.stringify(line)).join("\n"));
const { id } = await world.bench<{ id: string }>("POST", `apps/${slug}/imports`, { name: "long.jsonl", as: "jsonl", bytes: file.length });
await fetch(`${world.address}/api/bench/jobs/${id}/parts?from=0`, { method: "PUT", body: new Uint8Array(file) });
const until = async (s: string) => { while (((await world.bench("GET", `jobs/${id}`)) as any).state !== s) await new Promise((r) => setTimeout(r, 100)); };
await until("waiting");
const t = Date.now();
await world.bench("POST", `jobs/${id}/store`);
await until("done");
console.log("import ms", Date.now() - t);
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-dev-shm-usage"] });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("console", (m) => ["error", "warning"].includes(m.type()) && console.log(m.text().slice(0, 300)));
page.on("pageerror", (e) => console.log("PAGE", e.message));
await page.goto(`${world.address}/apps/${slug}/history`);
await page.getByRole("button", { name: /Question 1/ }).click();
for (let i = 0; i < 4; i++) {
  await page.waitForTimeout(800);
  console.log(await page.evaluate(() => { const f = document.querySelector('[aria-label="Its turns"]') as HTMLElement; return [f?.scrollTop, f?.scrollHeight, f?.clientHeight, f?.innerText.slice(0, 80)]; }));
}
await page.screenshot({ path: "/tmp/look/a.png" });
await browser.close();
await world.stop();
