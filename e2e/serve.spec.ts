import { execFile } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { mkdir, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { Page } from "@playwright/test";
import { SignJWT } from "jose";
import type { Way } from "@/core/calling/call";
import { callFor, type Place, places, sampleFor } from "@/core/calling/sample";
import { expectAccessibleInBoth } from "./axe";
import { expect, noLimits, test, type World } from "./fixtures";
import { siteOf } from "./site";

/** Serve, as the tests work with it. */
function serveOf(page: Page, world: World, slug: string) {
  const frame = page.frameLocator("iframe");
  return {
    open: () => page.goto(`${world.address}/apps/${slug}/serve`),
    frame,
    title: frame.getByRole("heading", { level: 1 }),
    word: (name: string) => page.getByRole("textbox", { name, exact: true }),
    choose: async (name: string, option: string) => {
      await page.getByRole("combobox", { name, exact: true }).click();
      await page.locator(".ant-select-item-option", { hasText: option }).last().click();
    },
    calls: page.getByRole("region", { name: "Calls as they come" }).getByRole("row"),
    served: () =>
      world.bench<{
        access: Record<string, unknown>;
        look: Record<string, unknown>;
        tokens: object[];
        liveRevision: number;
      }>("GET", `apps/${slug}/serving`),
    say: (body: object, headers: Record<string, string> = {}) =>
      fetch(`${world.address}/api/apps/${slug}/replies`, { method: "POST", body: JSON.stringify(body), headers }),
  };
}

test.describe("the look", () => {
  test("is set in sentences, and the real page shows it", async ({ page, world }) => {
    const slug = await world.makeApp("Dressed");
    const serve = serveOf(page, world, slug);
    await serve.open();
    await expect(serve.title).toHaveText("Dressed");
    await serve.word("Title").fill("Quay Desk");
    await page.keyboard.press("Enter");
    await expect(serve.title).toHaveText("Quay Desk");
    await serve.word("Accent").fill("#7a1f3d");
    await page.keyboard.press("Enter");
    await expect(serve.frame.locator(".talk-head")).toHaveCSS("background-color", "rgb(122, 31, 61)");
    await expect(page.getByText(/contrast \d+\.\d : 1/)).toBeVisible();
    await serve.word("Accent").fill("red");
    await page.keyboard.press("Enter");
    await serve.choose("State that is shown", "failed");
    await page.getByRole("button", { name: "wording of failures" }).click();
    await serve.word("What visitors are told: The reply broke off").fill("The line went dead.");
    await page.keyboard.press("Enter");
    await expect(serve.frame.getByRole("alert").first()).toHaveText("The line went dead.");
    await serve.choose("State that is shown", "first");
    await page.getByRole("button", { name: "first questions" }).click();
    await page.getByRole("textbox", { name: "First questions, one a line" }).fill("Do dogs pay?\nWhen?");
    await page.getByRole("textbox", { name: "First questions, one a line" }).blur();
    await expect(serve.frame.getByRole("button", { name: "Do dogs pay?" })).toBeVisible();
    expect((await serve.served()).look).toMatchObject({ accent: "#7a1f3d", questions: ["Do dogs pay?", "When?"] });
  });

  test("has a style sheet from the view, or from a watched file, which goes before it", async ({ page, world }) => {
    const slug = await world.makeApp("Sheeted");
    const serve = serveOf(page, world, slug);
    await serve.open();
    const title = serve.frame.locator(".talk-title");
    await page.getByRole("button", { name: "style sheet" }).click();
    await page.getByRole("textbox", { name: "Style sheet" }).fill(".talk-title { letter-spacing: 7px }");
    await page.getByRole("textbox", { name: "Style sheet" }).blur();
    await expect(title).toHaveCSS("letter-spacing", "7px");
    await mkdir(join(world.folder, "styles"), { recursive: true });
    const file = join(world.folder, "styles", `${slug}.css`);
    await writeFile(file, ".talk-title { letter-spacing: 3px }");
    await expect(title).toHaveCSS("letter-spacing", "3px");
    await writeFile(file, ".talk-title { letter-spacing: 5px }");
    await expect(title).toHaveCSS("letter-spacing", "5px");
  });
});

test.describe("who may call", () => {
  test("is said in a sentence; a token is shown once, and revoked", async ({ page, world }) => {
    const slug = await world.makeApp("Allowed");
    const serve = serveOf(page, world, slug);
    await serve.open();
    await serve.choose("Who may call", "callers with a token only");
    await expect.poll(async () => (await serve.served()).access.callers).toBe("token");
    await page.getByRole("button", { name: "0 access tokens" }).click();
    await page.getByRole("textbox", { name: "Name of the token" }).fill("Timetable board");
    await page.getByRole("button", { name: "make it" }).click();
    const token = (await page.getByText(/^finch_server_/).textContent()) ?? "";
    expect((await serve.say({ message: "Hello" }, { authorization: `Bearer ${token}` })).status).toBe(200);
    await page.getByRole("button", { name: "I have it" }).click();
    await page.reload();
    await page.getByRole("button", { name: "1 access token" }).click();
    await expect(page.getByText(token)).toHaveCount(0);
    await expect(page.getByText(/last used/)).toBeVisible();
    await page.getByRole("button", { name: "Revoke Timetable board" }).click();
    await page
      .getByRole("dialog", { name: "Revoke Timetable board?" })
      .getByRole("button", { name: "Revoke it" })
      .click();
    await expect(page.getByText("There is no token yet.")).toBeVisible();
    expect((await serve.say({ message: "Hello" }, { authorization: `Bearer ${token}` })).status).toBe(401);
  });

  test("is limited once a limit is kept, and not at each key; that there is none is chosen", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Limited");
    const serve = serveOf(page, world, slug);
    await serve.open();
    await page.getByRole("button", { name: "limits, and what callers may see and choose" }).click();
    const day = page.getByRole("spinbutton", { name: "What the calls of a day may cost" });
    const limit = async () => ((await serve.served()).access.limits as { day: number | null }).day;
    const puts: string[] = [];
    page.on("request", (request) => {
      if (request.method() === "PUT" && request.url().endsWith("/access")) puts.push(request.postData() ?? "");
    });
    await day.click();
    await page.keyboard.type("0.05");
    await expect(day).toHaveValue("0.05");
    expect([puts.length, await limit()]).toEqual([0, null]);
    await page.keyboard.press("Enter");
    await expect.poll(limit).toBe(0.05);
    await expect(day).toBeFocused();
    await day.fill("");
    await page.keyboard.press("Tab");
    await expect(day).toHaveValue("0.05");
    await day.fill("7");
    await page.keyboard.press("Escape");
    await expect(day).toHaveValue("0.05");
    expect([puts.length, await limit()]).toEqual([1, 0.05]);
    const none = page.getByRole("button", { name: "no limit: What the calls of a day may cost" });
    await none.click();
    await expect.poll(limit).toBeNull();
    await expect(day).toBeFocused();
    await expect(none).toHaveCount(0);
  });

  test("shows what is ticked at once, keeps it over a slow server, and loses none of two ticks", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Ticked");
    const serve = serveOf(page, world, slug);
    await serve.open();
    await page.getByRole("button", { name: "limits, and what callers may see and choose" }).click();
    const told = page.getByRole("group", { name: /^Callers are told/ });
    const puts: string[] = [];
    let release = () => {};
    const released = new Promise<void>((resolve) => {
      release = resolve;
    });
    await page.route("**/access", async (route) => {
      puts.push(route.request().method());
      await released;
      await route.continue();
    });
    const readAgain = () => page.waitForResponse((answer) => answer.url().endsWith(`/${slug}/serving`));
    for (const name of ["thoughts", "price"]) {
      await told.getByRole("checkbox", { name }).uncheck();
      await readAgain();
    }
    await expect(told.getByRole("checkbox", { checked: true })).toHaveCount(3);
    expect(puts).toEqual(["PUT"]);
    release();
    await expect.poll(async () => (await serve.served()).access.shows).toEqual(["counts", "model", "tools"]);
    await readAgain();
    await expect(told.getByRole("checkbox", { checked: true })).toHaveCount(3);
  });

  test("makes a draft the preview, and then puts it live", async ({ page, world }) => {
    const slug = await world.makeApp("Preview");
    await world.editDraft(slug, { prompt: "You are new." });
    const serve = serveOf(page, world, slug);
    await serve.open();
    await page.getByRole("button", { name: "make the draft a preview" }).click();
    await expect(page.getByRole("link", { name: `/talk/${slug}/preview`, exact: true })).toBeVisible();
    await serve.choose("What is live", "make it live");
    await expect.poll(async () => (await serve.served()).liveRevision).toBe(2);
    await serve.say({ message: "Hello" });
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You are new.");
    await page.getByRole("button", { name: "end it", exact: true }).click();
    await expect(page.getByText("there is no preview")).toBeVisible();
  });
});

test.describe("the calls", () => {
  test("come live; a refused origin is allowed with one click; each opens its dispatch and is given away", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Watched");
    const serve = serveOf(page, world, slug);
    await serve.open();
    await expect(page.getByText("No call has come yet.")).toBeVisible();
    await serve.say({ message: "What is 12 * 7?" }, { "finch-visitor": "ottil-31", "finch-client": "desk-7" });
    await expect(serve.calls.nth(1)).toContainText(/HTTP · desk-7.*ottil-31.*200.*→.*€.*complete/);
    const origin = "http://localhost:5173";
    await serve.say({ message: "Hello" }, { origin });
    await expect(serve.calls.nth(1)).toContainText(`403`);
    await serve.calls.nth(1).getByRole("button", { name: "allow it" }).click();
    // once it is allowed nothing is refused any more
    const readAccess = () =>
      world.bench<{ access: { origins: string[] } }>("GET", `apps/${slug}/serving`).then(({ access }) => access);
    await expect.poll(async () => (await readAccess()).origins).toContain(origin);
    await expect.poll(async () => (await serve.say({ message: "Hello" }, { origin })).status).toBe(200);
    await serve.choose("Which calls are shown", "refused");
    await expect(serve.calls).toHaveCount(2);
    await serve.choose("Which calls are shown", "all");
    await page.getByRole("button", { name: "pause" }).click();
    await serve.calls.last().getByRole("button").click();
    await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("What is 12 * 7?");
    const download = page.waitForEvent("download");
    await page.getByRole("link", { name: "download it" }).click();
    const file = readFileSync(await (await download).path(), "utf8");
    expect(JSON.parse(file)).toMatchObject({
      app: "Watched",
      call: { visitor: "ottil-31" },
      dispatches: [{ end: "complete" }],
    });
    expect(file).not.toContain("reed-demo-key");
  });

  test("are sent from here, right and wrong, first and second", async ({ page, world }) => {
    const slug = await world.makeApp("Sent");
    const serve = serveOf(page, world, slug);
    await serve.open();
    const call = page.getByRole("region", { name: "Call it" });
    await call.getByRole("textbox", { name: "Message of the call" }).fill("I'm Ivo");
    await call.getByRole("button", { name: "Send it" }).press("Enter");
    await expect(call.getByRole("status")).toContainText(
      /200 · text\/event-stream.*first event.*first text.*ended after/,
    );
    await call.getByRole("button", { name: "continue with a second message" }).click();
    await call.getByRole("textbox", { name: "Message of the call" }).fill("What is my name?");
    await serve.choose("How it is asked for", "the whole answer");
    await call.getByRole("button", { name: "Send it" }).press("Enter");
    await expect(call.getByRole("status")).toContainText("Ivo");
    await serve.choose("Right or wrong", "a wrong call");
    await call.getByRole("button", { name: "Send it" }).press("Enter");
    await expect(call.getByRole("status")).toContainText(/400 · application\/problem\+json/);
    await expect(call.getByRole("status")).toContainText("`message`");
    await call.getByRole("button", { name: "headers" }).click();
    await expect(call.getByRole("status")).toContainText("cache-control: no-store");
  });

  test("are read without slips by who can't see them", async ({ page, world }) => {
    const slug = await world.makeApp("Axe");
    const serve = serveOf(page, world, slug);
    await serve.say({ message: "Hello" });
    await page.setViewportSize({ width: 1024, height: 800 });
    await serve.open();
    await expect(serve.calls).toHaveCount(2);
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
    for (const name of ["0 access tokens", "no other origin", "limits, and what"])
      await page.getByRole("button", { name }).click();
    await expectAccessibleInBoth(page, "Serve", "iframe");
  });
});

test.describe("a program of Call it", () => {
  const programs: Record<Place, { file: string; command: string } | undefined> = {
    shell: { file: "call.sh", command: "sh" },
    // what runs in a page is run in one below
    browser: undefined,
    node: { file: "call.mjs", command: process.execPath },
    python: { file: "call.py", command: "python3" },
    php: { file: "call.php", command: "php" },
    ruby: { file: "call.rb", command: "ruby" },
    java: { file: "Call.java", command: "java" },
  };
  const ways: Way[] = ["stream", "whole", "later"];
  /** A text that would break out of any carelessly written literal. */
  const odd = `What is 12 * 7? It's "odd": $HOME \`date\` #{1 + 1} \\ {"a": 'b'} ’ 💧`;

  async function isThere(command: string): Promise<boolean> {
    return new Promise((resolve) =>
      execFile(command, [command === "sh" ? "-c" : "--version", "true"], (error) => resolve(!error)),
    );
  }

  for (const place of places)
    test(`from ${place} runs as it stands: a stream, whole and later, right and wrong, first and second`, async ({
      page,
      world,
    }) => {
      test.setTimeout(240_000);
      const program = programs[place];
      test.skip(program !== undefined && !(await isThere(program.command)), `there is no ${program?.command} here`);
      const slug = await world.makeApp("Called");
      const folder = mkdtempSync(join(tmpdir(), "finch-call-"));
      const run = async (code: string): Promise<string> => {
        if (!program) {
          await page.goto(`${world.address}/api/health`);
          await page.evaluate(() => document.body.replaceChildren());
          return page
            .evaluate(`(async () => { ${code} })().then(() => document.body.innerText, (error) => error.message)`)
            .then(String);
        }
        const file = join(folder, program.file);
        writeFileSync(file, code);
        return new Promise((resolve) =>
          execFile(program.command, [file], { timeout: 60_000 }, (_error, out, err) => resolve(out + err)),
        );
      };
      const asked = {
        base: world.address,
        slug,
        visitor: "ada",
        with: "nothing" as const,
        token: "",
        variables: {},
        message: odd,
        isWrong: false,
      };
      for (const way of ways) {
        const out = await run(sampleFor(place, callFor({ ...asked, way })));
        expect([way, out]).toEqual([way, expect.stringContaining("84")]);
        expect((await world.calls()).at(-1)?.messages.at(-1)?.content).toBe(odd);
      }
      const wrong = await run(sampleFor(place, callFor({ ...asked, way: "stream", isWrong: true })));
      expect(wrong).toContain("`message`");
      const { conversations } = await world.bench<{ conversations: { id: string }[] }>(
        "GET",
        `apps/${slug}/conversations`,
      );
      const second = { ...asked, message: "What did I ask first?", conversation: conversations[0]?.id };
      expect(await run(sampleFor(place, callFor({ ...second, way: "stream" })))).toContain("12");
      // an app that wants a token, and a value of the caller
      const guarded = await world.makeApp(
        "Guarded",
        { prompt: "You stand at {{desk}}." },
        { callers: "token", limits: noLimits },
      );
      const { text } = await world.bench<{ text: string }>("POST", `apps/${guarded}/tokens`, {
        kind: place === "browser" ? "public" : "server",
        name: "Call it",
      });
      const withToken = {
        ...asked,
        slug: guarded,
        with: place === "browser" ? ("public" as const) : ("server" as const),
        token: text,
        variables: { desk: odd },
      };
      expect(await run(sampleFor(place, callFor({ ...withToken, way: "stream" })))).toContain("84");
      expect((await world.calls()).at(-1)?.messages[0]?.content).toBe(`You stand at ${odd}.`);
      rmSync(folder, { recursive: true });
    });

  test("in a browser runs on a page of an allowed origin, with each kind of access, and goes on as the same visitor", async ({
    page,
    world,
  }) => {
    const site = await siteOf("<body></body>");
    const slug = await world.makeApp("From a site", {}, { origins: [site.origin], limits: noLimits });
    const made = async (kind: string) =>
      (await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, { kind, name: kind })).text;
    const identity = await new SignJWT({ sub: "ada" })
      .setProtectedHeader({ alg: "HS256" })
      .setExpirationTime("1h")
      .sign(new TextEncoder().encode(await made("site")));
    const accesses = [
      ["machine", "nothing", ""],
      ["token", "public", await made("public")],
      ["token", "site", identity],
    ] as const;
    for (const [callers, calledWith, token] of accesses) {
      await world.bench("PUT", `apps/${slug}/access`, {
        access: { callers, origins: [site.origin], limits: noLimits },
      });
      await page.goto(`${site.origin}/`);
      await page.evaluate(() => localStorage.clear());
      const run = async (asked: { message: string; conversation?: string }) => {
        const call = callFor({
          base: world.address,
          slug,
          visitor: "ignored",
          with: calledWith,
          token,
          variables: {},
          way: "whole",
          isWrong: false,
          ...asked,
        });
        await page.evaluate(() => document.body.replaceChildren());
        return page
          .evaluate(
            `(async () => { ${sampleFor("browser", call)} })().then(() => document.body.innerText, (error) => error.message)`,
          )
          .then(String);
      };
      const first = await run({ message: "I'm Ivo" });
      expect([calledWith, first]).toEqual([calledWith, expect.stringContaining('"conversation"')]);
      const { conversation } = JSON.parse(first) as { conversation: string };
      expect([calledWith, await run({ message: "What is my name?", conversation })]).toEqual([
        calledWith,
        expect.stringContaining("Ivo"),
      ]);
    }
    site.close();
  });
});
