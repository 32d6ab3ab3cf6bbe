import { readFileSync } from "node:fs";
import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { brokenCommands, commandsWithSecrets } from "@/core/wire/samples/pasted";
import { expect, test, World } from "./fixtures";

const answer = '{"out":{"text":"Yes, the 8:10 runs."},"ended":"stop"}';

/** Everything that stands on the page: words, what is typed in fields, and what attributes hold. */
const allOf = (page: Page) =>
  page.evaluate(() => {
    const fields = [...document.querySelectorAll("input, textarea")].map((field) => (field as HTMLInputElement).value);
    return [document.documentElement.outerHTML, ...fields].join("\n");
  });

/** Pastes a command as a person does, through the clipboard's event and what the browser makes of it. */
async function paste(page: Page, command: string): Promise<void> {
  const field = page.getByRole("textbox", { name: "A command that works" });
  await field.fill("");
  await field.fill(command);
}

test.describe("a pasted command", () => {
  let world: World;
  let server: Server;
  const log: string[] = [];
  test.beforeAll(async () => {
    world = await World.make();
    await world.start((line) => log.push(line));
    server = createServer((request, response) => {
      // it echoes all that it gets, as a careless provider would
      let body = "";
      request.on("data", (part) => {
        body += part;
      });
      request.on("end", () => {
        response.setHeader("x-echo", request.headers.authorization ?? "none");
        response.setHeader("content-type", "application/json");
        const echoed = JSON.stringify([request.url, request.headers, body]);
        response.end(JSON.stringify({ out: { text: `Yes, the 8:10 runs. ${echoed}` }, ended: "stop" }));
      });
    });
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  });
  test.afterAll(async () => {
    server.close();
    await world.stop();
  });

  test("shows none of its secrets, broken or not, in its field, its proposal or anywhere on the page", async ({
    page,
  }) => {
    test.setTimeout(300_000);
    const errors: Error[] = [];
    page.on("pageerror", (error) => errors.push(error));
    await page.goto(`${world.address}/providers`);
    await page.getByRole("textbox", { name: "Its answer" }).fill(answer);
    for (const { name, text, secrets } of [...commandsWithSecrets, ...brokenCommands]) {
      await paste(page, text);
      await expect(page.getByRole("heading", { name: "Fit from a curl" })).toBeVisible();
      const shown = await allOf(page);
      for (const secret of secrets) expect([name, shown.includes(secret)]).toEqual([name, false]);
    }
    expect(errors).toEqual([]);
  });

  test("typed letter by letter is hidden when its field is left, and never takes the page down", async ({ page }) => {
    const errors: Error[] = [];
    page.on("pageerror", (error) => errors.push(error));
    await page.goto(`${world.address}/providers`);
    const field = page.getByRole("textbox", { name: "A command that works" });
    await field.fill("");
    await field.pressSequentially(`curl http://[ -H 'x-api-key: kq7-Zf81xT0pLm4Rw9' -d '{"a`);
    await page.getByRole("textbox", { name: "Its answer" }).focus();
    await expect(field).toHaveValue(/x-api-key: •x-api-key•/);
    expect(await allOf(page)).not.toContain("kq7-Zf81xT0pLm4Rw9");
    expect(errors).toEqual([]);
  });

  test("is called and wired with its secrets sealed: they stand in no answer, row or line of the log", async ({
    page,
  }) => {
    test.setTimeout(300_000);
    const { port } = server.address() as AddressInfo;
    const wired = commandsWithSecrets.filter(
      ({ text }) => /\/\/[^/]*127\.0\.0\.1:4600/.test(text) && !text.includes("3128"),
    );
    expect(wired.length).toBeGreaterThan(30);
    const secrets = wired.flatMap((each) => each.secrets);
    await page.goto(`${world.address}/providers`);
    for (const [at, { name, text, key }] of wired.entries()) {
      if (at > 0) await page.getByRole("button", { name: "Wire another" }).click();
      await paste(page, text.replaceAll("127.0.0.1:4600", `127.0.0.1:${port}`));
      await page.getByRole("textbox", { name: "Its answer" }).fill("");
      await page.getByRole("button", { name: "Make the call" }).click();
      await expect(page.getByRole("textbox", { name: "Its answer" })).toHaveValue(/the 8:10 runs/);
      const roles = page.getByRole("combobox", { name: /What does this API call the app/ });
      if (await roles.isVisible()) {
        await roles.fill("assistant");
        await roles.press("Enter");
      }
      if (key === undefined) {
        await page.getByRole("combobox", { name: /Which of them is the key/ }).click({ timeout: 20_000 });
        await page.locator(".ant-select-dropdown:visible .ant-select-item-option").first().click();
      }
      await page.getByRole("textbox", { name: "Name" }).fill(`Pasted ${at}`);
      const shown = await allOf(page);
      for (const secret of secrets) expect([name, secret, shown.includes(secret)]).toEqual([name, secret, false]);
      await page.getByRole("button", { name: "Wire it" }).click();
      await expect(page.getByRole("region", { name: `Pasted ${at}` })).toBeVisible();
    }
    const answers = await (await fetch(`${world.address}/api/bench/providers`)).text();
    const stored = ["finch.sqlite", "finch.sqlite-wal"].map((name) =>
      readFileSync(join(world.folder, name)).toString("latin1"),
    );
    for (const secret of secrets) {
      expect(answers).not.toContain(secret);
      for (const file of stored) expect([secret, file.includes(secret)]).toEqual([secret, false]);
      expect(log.join("\n")).not.toContain(secret);
    }
  });
});
