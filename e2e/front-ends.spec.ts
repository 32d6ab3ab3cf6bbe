import { type ChildProcess, execFile, spawn } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { gzipSync } from "node:zlib";
import type { Page, Route } from "@playwright/test";
import Sqlite from "better-sqlite3";
import { SignJWT } from "jose";
import { problemDocument } from "@/contract/problem";
import { problem } from "@/core/problem/problem";
import { openTalk } from "@/module/talk";
import { freePorts } from "../scripts/free-ports";
import { expect, noLimits, test, type World } from "./fixtures";
import { siteOf } from "./site";

interface Ran {
  code: number | null;
  out: string;
  err: string;
}

/** Runs a program to its end. @param input what a pipe brings */
function run(command: string, args: string[], env: Record<string, string> = {}, input = ""): Promise<Ran> {
  return new Promise((resolve) => {
    const child = execFile(command, args, { env: { ...process.env, ...env }, timeout: 60_000 }, (_error, out, err) =>
      resolve({ code: child.exitCode, out, err }),
    );
    child.stdin?.end(input);
  });
}

/** A server among the examples, on a port of its own. */
async function serving(file: string, env: Record<string, string>): Promise<{ child: ChildProcess; address: string }> {
  const port = await freePorts(1);
  const child = spawn(process.execPath, [file], {
    env: { ...process.env, ...env, PORT: String(port) },
    stdio: ["ignore", "ignore", "inherit"],
  });
  const address = `http://127.0.0.1:${port}`;
  await expect
    .poll(() =>
      fetch(address).then(
        ({ ok }) => ok,
        () => false,
      ),
    )
    .toBe(true);
  return { child, address };
}

const appOf = (world: World, slug: string) => `${world.address}/api/apps/${slug}`;

test.describe("front ends of other kinds", () => {
  test("one HTML file, as Serve gives it, works from another origin once that is allowed", async ({ page, world }) => {
    // a value that would end a script, were it written as it is
    const desk = "</script>Mill Quay";
    const slug = await world.makeApp("Html", { prompt: "You stand at {{desk}}.", samples: { desk } });
    const { html } = await world.bench<{ html: string }>("POST", `apps/${slug}/front-end`, {});
    const site = await siteOf(html);
    const { origin } = site;
    const say = async (text: string) => {
      await page.getByRole("textbox").fill(text);
      await page.keyboard.press("Enter");
    };
    // the module comes late: what is sent meanwhile waits for it
    let module = () => {};
    const late = async (route: Route) => {
      await new Promise<void>((resolve) => {
        module = resolve;
      });
      await route.continue();
    };
    await page.route("**/talk/module.js", late, { times: 1 });
    await page.goto(origin);
    await say("I'm Ivo");
    await expect(page.getByRole("textbox")).toHaveValue("I'm Ivo");
    module();
    await expect(page.locator(".failure")).toBeVisible();
    await world.bench("PUT", `apps/${slug}/access`, { access: { origins: [origin] } });
    await say("I'm Ivo");
    await expect(page.locator("p.app")).toHaveCount(1);
    await expect(page.locator("#line")).toHaveAttribute("data-state", "ready");
    await say("What is my name?");
    await expect(page.locator("p.app").last()).toContainText("Ivo");
    await page.reload();
    await expect(page.locator("p.app").last()).toContainText("Ivo");
    const { conversations } = await world.bench<{ conversations: object[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toMatchObject([{ origin: "http", client: "page.html", turnCount: 2 }]);
    site.close();
  });

  test("pages without JavaScript remember by the conversation's id alone", async ({ browser, world }) => {
    const slug = await world.makeApp("No script");
    const { child, address } = await serving("examples/no-script.mjs", { FINCH_APP: appOf(world, slug) });
    const page = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
    await page.goto(address);
    for (const text of ["I'm Ivo, <b>bold</b>", "What is my name?"]) {
      await page.getByRole("textbox").fill(text);
      await page.getByRole("button", { name: "Send" }).click();
    }
    await expect(page.locator("p.app")).toHaveCount(2);
    await expect(page.locator("p.app").last()).toContainText("Ivo");
    await expect(page.locator("p.visitor").first()).toHaveText("I'm Ivo, <b>bold</b>");
    child.kill();
  });

  test("a Node program goes on in one conversation, and says what was refused", async ({ world }) => {
    const slug = await world.makeApp("Program");
    const env = { FINCH_APP: appOf(world, slug) };
    const { out, code } = await run(process.execPath, ["examples/ask.mjs", "I'm Ada", "What is my name?"], env);
    expect([code, out.trim().split("\n").at(-1)]).toEqual([0, expect.stringContaining("Ada")]);
    await world.fault({ fault: "status", status: 503, calls: 1 });
    expect(await run(process.execPath, ["examples/ask.mjs", "Hello"], env)).toMatchObject({
      code: 1,
      err: expect.stringContaining("overloaded"),
    });
  });

  test("a shell script asks whatever is asked, and fails where the reply does", async ({ world }) => {
    const slug = await world.makeApp("Script");
    const env = { FINCH_APP: appOf(world, slug) };
    const question = 'What is 12 * 7? "Quoted", with a \\ and\na second line';
    const { code, out } = await run("sh", ["examples/ask.sh", question], env);
    expect([code, out]).toEqual([0, expect.stringContaining("84")]);
    expect((await world.calls()).at(-1)?.messages.at(-1)?.content).toBe(question);
    await world.fault({ fault: "status", status: 503, calls: 1 });
    expect(await run("sh", ["examples/ask.sh", "Hello"], env)).toMatchObject({ code: 1 });
    expect(await run("sh", ["examples/ask.sh", "Hello"], { FINCH_APP: appOf(world, "nowhere") })).toMatchObject({
      code: 1,
    });
  });

  test("a relay holds nothing back, and keeps the token to itself", async ({ page, world }) => {
    const slug = await world.makeApp("Relayed", {}, { callers: "token" });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, {
      kind: "server",
      name: "Relay",
    });
    const { child, address } = await serving("examples/relay.mjs", {
      FINCH_APP: appOf(world, slug),
      FINCH_TOKEN: text,
    });
    await world.pace(40);
    const response = await fetch(`${address}/say`, {
      method: "POST",
      body: JSON.stringify({ message: "Tell me about the ferry, please, in three sentences" }),
    });
    let parts = 0;
    let all = "";
    for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
      parts += 1;
      all += new TextDecoder().decode(part);
    }
    expect(parts).toBeGreaterThan(5);
    expect(all).toContain("event: end");
    await world.pace("instant");
    await page.goto(address);
    for (const message of ["I'm Ivo", "What is my name?"]) {
      await page.getByRole("textbox").fill(message);
      await page.getByRole("button", { name: "Send" }).click();
      await expect(page.locator("#reply")).toContainText("Ivo");
    }
    expect(await page.content()).not.toContain(text);
    child.kill();
  });
});

/** Notes how long the text at a place of a page is, whenever the page changes; gives the lengths that it had, growing. */
async function lengthsOf(where: Page, place: string): Promise<() => Promise<number[]>> {
  const noted = await where.evaluateHandle((selector) => {
    const lengths: number[] = [];
    const note = () => {
      const length = [...document.querySelectorAll<HTMLElement>(selector)].at(-1)?.innerText.length ?? 0;
      if (length > (lengths.at(-1) ?? 3)) lengths.push(length);
    };
    new MutationObserver(note).observe(document, { childList: true, subtree: true, characterData: true });
    return lengths;
  }, place);
  return () => noted.jsonValue();
}

test("one app answers at once in all of them, streaming, and each is kept under its own name", async ({
  page,
  browser,
  world,
}) => {
  test.setTimeout(120_000);
  const slug = await world.makeApp("Everywhere");
  const app = appOf(world, slug);
  const { html } = await world.bench<{ html: string }>("POST", `apps/${slug}/front-end`, {});
  const site = await siteOf(html);
  const { origin } = site;
  await world.bench("PUT", `apps/${slug}/access`, { access: { origins: [origin] } });
  const [plain, relay] = await Promise.all([
    serving("examples/no-script.mjs", { FINCH_APP: app }),
    serving("examples/relay.mjs", { FINCH_APP: app }),
  ]);
  const question = "Tell me about the ferry, please, in three sentences";
  const script = await (await browser.newContext({ javaScriptEnabled: false })).newPage();
  const [bench, own, file, relayed] = [page, ...(await Promise.all([1, 2, 3].map(() => browser.newPage())))];
  if (!own || !file || !relayed) throw new Error("There is no page.");
  await Promise.all([
    bench.goto(`${world.address}/apps/${slug}/build?conversation=new`),
    own.goto(`${world.address}/talk/${slug}`),
    file.goto(origin),
    relayed.goto(relay.address),
    script.goto(plain.address),
  ]);
  await world.pace(30);
  // how long each shown answer was, whenever it changed: a busy machine looks at it late
  const watched = await Promise.all([
    lengthsOf(bench, "article[aria-label^='Turn 1, reply'] [data-arriving]"),
    lengthsOf(own, '.talk-row[data-role="app"]'),
    lengthsOf(file, "p.app"),
    lengthsOf(relayed, "#reply"),
  ]);
  const say = async (where: Page) => {
    await where.getByRole("textbox", { name: /Message|Write a message/ }).fill(question);
    await where.keyboard.press("Enter");
  };
  await Promise.all([say(bench), say(own), say(file), say(relayed), say(script)]);
  await Promise.all([
    // each shows parts of the answer before it shows all of it
    ...watched.map((lengths) => expect.poll(async () => (await lengths()).length).toBeGreaterThan(3)),
    expect(script.locator("p.app")).toHaveText(/\w{3,}/),
    run(process.execPath, ["examples/ask.mjs", question], { FINCH_APP: app }),
    run(process.execPath, ["bin/finch.mjs", "talk", slug, question], {
      FINCH_ADDRESS: world.address,
      XDG_CONFIG_HOME: world.folder,
    }),
  ]);
  const names = async () => {
    const { conversations } = await world.bench<{ conversations: { origin: string; client: string | null }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    return conversations.map(({ origin, client }) => [origin, client].filter(Boolean).join(" ")).sort();
  };
  const all = ["bench", "http ask.mjs", "http no-script", "http page.html", "http relay", "page", "terminal"];
  expect(await names()).toEqual(all);
  await page.goto(`${world.address}/apps/${slug}/serve`);
  for (const name of [
    "HTTP · ask.mjs",
    "HTTP · no-script",
    "HTTP · page.html, other origin",
    "HTTP · relay",
    "page",
    "terminal",
  ])
    await expect(page.getByRole("cell", { name, exact: true })).toBeVisible();
  plain.child.kill();
  relay.child.kill();
  site.close();
});

test.describe("the module for front ends", () => {
  test("is small, depends on nothing, is typed, and may be loaded by any page", async ({ world }) => {
    const response = await fetch(`${world.address}/talk/module.js`, { headers: { origin: "http://localhost:5173" } });
    expect(response.headers.get("access-control-allow-origin")).toBe("*");
    expect(response.headers.get("content-encoding")).toBe("gzip");
    expect(response.headers.get("x-typescript-types")).toBe("./module.d.ts");
    const code = await response.text();
    expect(gzipSync(code).length).toBeLessThan(6_000);
    const types = await fetch(`${world.address}/talk/module.d.ts`);
    expect(types.headers.get("content-type")).toBe("application/typescript; charset=utf-8");
    expect(code).not.toMatch(/\bimport\b|\brequire\(/);
    expect(await types.text()).toContain("export declare function openTalk");
    const plain = await fetch(`${world.address}/talk/module.js`, { headers: { "accept-encoding": "identity" } });
    expect([plain.headers.get("content-encoding"), await plain.text()]).toEqual([null, code]);
  });

  test("is made into a package that can be installed", async ({ world }) => {
    const folder = mkdtempSync(join(tmpdir(), "finch-package-"));
    const packed = await run("npm", ["run", "-s", "module", "--", folder]);
    expect(packed).toMatchObject({ code: 0 });
    writeFileSync(join(folder, "package.json"), '{"name":"front-end","private":true,"type":"module"}');
    const file = readdirSync(folder).find((name) => name.endsWith(".tgz")) ?? "";
    const install = `cd ${folder} && npm install --offline --no-audit --no-fund ./${file}`;
    expect(await run("sh", ["-c", install])).toMatchObject({ code: 0 });
    const slug = await world.makeApp("Packed");
    writeFileSync(
      join(folder, "front-end.mjs"),
      `import { openTalk } from "unruly-finch-talk";
const talk = openTalk({ app: ${JSON.stringify(appOf(world, slug))}, visitor: "ada" });
await talk.say("What is 12 * 7?");
console.log(talk.state.messages.at(-1).text);`,
    );
    expect((await run(process.execPath, [join(folder, "front-end.mjs")])).out).toContain("84");
    rmSync(folder, { recursive: true });
  });

  test("goes on, stops, fails with a name, and tries again", async ({ world }) => {
    const slug = await world.makeApp("Module");
    const talk = openTalk({ app: appOf(world, slug), visitor: "ada", client: "a test" });
    const states: string[] = [];
    talk.watch(({ state }) => states.at(-1) !== state && states.push(state));
    expect(await talk.say("   ")).toBe(false);
    expect(await talk.say("I'm Ada")).toBe(true);
    await talk.say("What is my name?");
    expect(talk.state.messages.at(-1)).toMatchObject({ state: "complete", text: expect.stringContaining("Ada") });
    expect(states).toEqual(["ready", "waiting", "arriving", "ready", "waiting", "arriving", "ready"]);
    await world.fault({ fault: "status", status: 503, calls: 1 });
    await talk.say("And now?");
    expect(talk.state.messages.at(-1)).toMatchObject({ state: "failed", failure: { kind: "overloaded" } });
    await talk.retry();
    expect(talk.state.messages).toHaveLength(6);
    await world.pace(20);
    const long = talk.say("Tell me a long story about the ferry");
    await expect.poll(() => talk.state.state).toBe("arriving");
    expect(await talk.say("and another")).toBe(false);
    await talk.stop();
    await long;
    expect(talk.state.messages.at(-1)?.state).toBe("stopped");
    const again = openTalk({ app: appOf(world, slug), visitor: "ada" });
    await again.open((await again.list()).conversations[0]?.id);
    expect(again.state.messages.map(({ text }) => text)).toEqual(talk.state.messages.map(({ text }) => text));
    await again.forget();
    expect([again.state.messages, (await again.list()).conversations]).toEqual([[], []]);
  });

  /** What is kept, as a browser keeps it. */
  const keeping = (kept = new Map<string, string>()) => ({
    kept,
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => void kept.set(name, value),
    removeItem: (name: string) => void kept.delete(name),
  });

  test("opens a visitor with a public token, renews its pass, and opens another once that was never given", async ({
    world,
  }) => {
    const slug = await world.makeApp("Passes", {}, { callers: "token" });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, {
      kind: "public",
      name: "Page",
    });
    const keep = keeping();
    const talk = openTalk({ app: appOf(world, slug), token: text, keep });
    await talk.say("I'm Ivo");
    const pass = `finch pass ${appOf(world, slug)}`;
    const before = keep.kept.get(pass);
    expect(before).toMatch(/^finch_pass_/);
    // twelve hours later, in the tab that is open still, and in one that is opened then
    const end = () => {
      const stored = new Sqlite(`${world.folder}/finch.sqlite`);
      stored.prepare("UPDATE visitors SET expires_at = 1 WHERE token_id IS NOT NULL").run();
      stored.close();
    };
    end();
    expect(await talk.say("What is my name?")).toBe(true);
    expect(talk.state.messages.at(-1)).toMatchObject({ state: "complete", text: expect.stringContaining("Ivo") });
    end();
    const next = openTalk({ app: appOf(world, slug), token: text, keep });
    await next.open();
    expect(next.state.messages).toHaveLength(4);
    keep.kept.set(pass, `${before}x`);
    const later = openTalk({ app: appOf(world, slug), token: text, keep });
    expect(await later.say("Hello")).toBe(true);
    expect(later.state.messages.at(-1)?.state).toBe("complete");
    expect(keep.kept.get(pass)).not.toBe(`${before}x`);
  });

  test("calls as whoever the site says it is, and asks it again when that is over", async ({ world }) => {
    const slug = await world.makeApp("Sites", {}, { callers: "token" });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, { kind: "site", name: "Site" });
    let [asked, lasts] = [0, -600];
    const token = async () => {
      asked += 1;
      const signed = new SignJWT({ sub: "ada" }).setProtectedHeader({ alg: "HS256" });
      lasts += 600;
      return signed.setExpirationTime(Math.floor(Date.now() / 1000) + lasts - 60).sign(new TextEncoder().encode(text));
    };
    const talk = openTalk({ app: appOf(world, slug), token });
    // the first one is over when it comes
    expect(await talk.say("I'm Ada")).toBe(true);
    expect(asked).toBe(2);
    const phone = openTalk({ app: appOf(world, slug), token });
    expect((await phone.list()).conversations).toHaveLength(1);
  });

  test("says that one may not call, and why, and is open again once one may", async ({ world }) => {
    const slug = await world.makeApp("Refusing", {}, { callers: "nobody" });
    const talk = openTalk({ app: appOf(world, slug), visitor: "ada" });
    expect(await talk.say("Hello")).toBe(false);
    expect(talk.state).toMatchObject({
      isRefused: true,
      state: "ready",
      messages: [{ state: "unsent", failure: { kind: "forbidden" } }],
    });
    await world.bench("PUT", `apps/${slug}/access`, { access: { callers: "machine" } });
    expect(await talk.retry()).toBe(true);
    expect(talk.state).toMatchObject({ isRefused: false, messages: [{ state: "said" }, { state: "complete" }] });
  });

  test("gives values for what the prompt leaves to callers, to each take as well", async ({ world }) => {
    const slug = await world.makeApp("Variables", { prompt: "You stand at {{desk}}." });
    const talk = openTalk({ app: appOf(world, slug), visitor: "ada", variables: { desk: "Mill Quay" } });
    await talk.say("Hello");
    await talk.again();
    expect(talk.state.messages.at(-1)?.state).toBe("complete");
    expect((await world.calls()).slice(-2).map(({ messages }) => messages[0]?.content)).toEqual([
      "You stand at Mill Quay.",
      "You stand at Mill Quay.",
    ]);
  });

  test("shows other takes and other lines, marks replies, and names conversations", async ({ world }) => {
    const slug = await world.makeApp("Takes of a module");
    const talk = openTalk({ app: appOf(world, slug), visitor: "ada" });
    await talk.say("Hello");
    const [said, first] = talk.state.messages.map(({ id }) => id);
    await talk.again();
    const second = talk.state.messages.at(-1)?.id;
    expect(talk.state.messages.at(-1)?.siblings).toEqual([first, second]);
    await talk.show(first ?? "");
    expect(talk.state.messages.map(({ id }) => id)).toEqual([said, first]);
    await talk.rate(first ?? "", "good");
    expect(talk.state.messages.at(-1)?.rating).toBe("good");
    await talk.say("And now?");
    expect(talk.state.messages).toHaveLength(4);
    await talk.show(second ?? "");
    expect(talk.state.messages).toHaveLength(2);
    const { conversation } = talk.state;
    await talk.name(conversation ?? "", "Two bicycles");
    expect((await talk.list()).conversations).toMatchObject([{ id: conversation, title: "Two bicycles" }]);
    await talk.show("msg_nothing");
    expect(talk.state.failure?.kind).toBe("not-found");
  });

  test("gives events as they come, sends headers of one's own, and lists by page", async ({ world }) => {
    const slug = await world.makeApp("Pages of a list");
    const seen: string[] = [];
    const talk = openTalk({
      app: appOf(world, slug),
      visitor: "ada",
      headers: { "finch-client": "own header" },
      onEvent: ({ event }) => seen.push(event),
    });
    await talk.say("Hello");
    expect([seen[0], seen.at(-1), seen.includes("text")]).toEqual(["reply", "end", true]);
    for (let each = 0; each < 21; each += 1) {
      talk.begin();
      await talk.say(`Hello ${each}`);
    }
    const first = await talk.list();
    expect([first.conversations.length, first.before]).toEqual([20, expect.any(String)]);
    const second = await talk.list(first.before ?? "");
    expect([second.conversations.length, second.before]).toEqual([2, null]);
    const { calls } = await world.bench<{ calls: { client: string }[] }>("GET", `apps/${slug}/calls`);
    expect(calls[0]?.client).toBe("own header");
  });

  test("goes on across sites without a cookie, and begins anew where a conversation is not there", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Across");
    // the lines of the documentation, as they stand
    const lines =
      /```js\n(import \{ openTalk \}[\s\S]*?)```/.exec(readFileSync("docs/endpoints.md", "utf8"))?.[1] ?? "";
    const script = lines.replaceAll("http://127.0.0.1:4600", world.address).replaceAll("quay-desk", slug);
    const site = await siteOf(
      `<script type="module">const draw = (messages) => { window.texts = messages.map(({ text }) => text); };\n${script}\nwindow.talk = talk;</script>`,
    );
    const { origin } = site;
    const tell = (code: string) => page.evaluate(code) as Promise<unknown>;
    await world.bench("PUT", `apps/${slug}/access`, { access: { origins: [origin], limits: noLimits } });
    await page.goto(`${origin}/`);
    await expect.poll(() => tell("window.talk?.state.messages.at(-1)?.state")).toBe("complete");
    expect(await tell('window.talk.say("I\'m Ivo")')).toBe(true);
    expect(await tell('window.talk.say("What is my name?")')).toBe(true);
    expect(await tell("window.texts.at(-1)")).toContain("Ivo");
    await page.reload();
    await expect.poll(() => tell("window.talk?.state.messages.at(-1)?.state")).toBe("complete");
    // a visitor who was forgotten finds nothing of the conversation, and is answered in a new one
    const { conversations } = await world.bench<{ conversations: { id: string }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    for (const { id } of conversations) await world.bench("DELETE", `conversations/${id}`);
    expect(await tell('window.talk.say("Hello")')).toBe(false);
    expect(await tell("window.talk.state.messages.at(-1).failure.kind")).toBe("not-found");
    expect(await tell("window.talk.retry()")).toBe(true);
    expect(await tell("window.talk.state.messages.map(({ state }) => state)")).toEqual(["said", "complete"]);
    site.close();
  });

  test("tells an origin that is refused from a network that is dead", async ({ page, world }) => {
    const slug = await world.makeApp("Refused origin");
    const site = await siteOf(
      `<script type="module">import { openTalk } from "${world.address}/talk/module.js";
      window.at = async (app) => { const talk = openTalk({ app }); await talk.say("Hello"); return talk.state.messages.at(-1).failure.kind; };</script>`,
    );
    await page.goto(`${site.origin}/`);
    await page.waitForFunction("window.at");
    const kindAt = (app: string) => page.evaluate(`window.at("${app}")`);
    expect(await kindAt(appOf(world, slug))).toBe("refused-origin");
    expect(await kindAt(`http://127.0.0.1:${await freePorts(1)}/api/apps/${slug}`)).toBe("offline");
    const { calls } = await world.bench<{ calls: { webOrigin: string }[] }>("GET", `apps/${slug}/calls`);
    expect(calls[0]?.webOrigin).toBe(site.origin);
    site.close();
  });
});

test.describe("the terminal", () => {
  const finch = (world: World, args: string[], input?: string) =>
    run(
      process.execPath,
      ["bin/finch.mjs", ...args],
      { FINCH_ADDRESS: world.address, XDG_CONFIG_HOME: world.folder, NODE_ENV: "production" },
      input,
    );

  test("asks one thing, goes on where it was, and gives JSON", async ({ world }) => {
    const slug = await world.makeApp("Terminal");
    expect(await finch(world, ["talk", slug, "I'm", "Ivo"])).toMatchObject({ code: 0, err: "" });
    expect((await finch(world, ["talk", slug], "What is my name?\n")).out).toContain("Ivo");
    const { out } = await finch(world, ["talk", slug, "--json", "--new", "What is my name?"]);
    const answer = JSON.parse(out) as { text: string; state: string };
    expect(answer).toMatchObject({ state: "complete", tokens: expect.any(Number) });
    expect(answer.text).not.toContain("Ivo");
    const { conversations } = await world.bench<{ conversations: object[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toMatchObject([{ origin: "terminal" }, { origin: "terminal", turnCount: 2 }]);
    expect((await finch(world, ["apps"])).out).toContain(`${slug} `);
  });

  test("ends with a code that tells, and says what to do", async ({ world }) => {
    const slug = await world.makeApp("Codes");
    expect(await finch(world, ["talk", "nowhere", "Hello"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("no app nowhere"),
    });
    expect(await finch(world, ["talk"])).toMatchObject({ code: 2 });
    const away = `http://127.0.0.1:${await freePorts(1)}`;
    expect(await finch(world, ["talk", "--at", away, slug, "Hello"])).toMatchObject({
      code: 1,
      err: expect.stringContaining("Nothing answers"),
    });
    expect(await finch(world, ["talk", slug], "")).toMatchObject({ code: 2 });
    await world.fault({ fault: "status", status: 503, calls: 1 });
    expect(await finch(world, ["talk", slug, "Hello"])).toMatchObject({
      code: 1,
      err: expect.stringContaining("overloaded"),
    });
    expect((await finch(world, ["talk", "--help"])).out).toMatch(/:reach.*\n.*:help[\s\S]*Ctrl\+D/);
  });

  test("keeps its visitor and token for its owner alone, by address", async ({ world }) => {
    const slug = await world.makeApp("Kept", {}, { callers: "token" });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, {
      kind: "server",
      name: "Mine",
    });
    expect((await finch(world, ["talk", slug, "Hello"])).code).toBe(2);
    // one that does not work is not kept
    expect((await finch(world, ["talk", slug, "--token", `${text}x`, "Hello"])).code).toBe(2);
    expect(readFileSync(`${world.folder}/finch/terminal.json`, "utf8")).not.toContain("finch_server_");
    expect((await finch(world, ["talk", slug, "--token", text, "--as", "ada", "Hello"])).code).toBe(0);
    expect((await finch(world, ["talk", slug, "Hello"])).code).toBe(0);
    const file = `${world.folder}/finch/terminal.json`;
    const { statSync } = await import("node:fs");
    expect(statSync(file).mode & 0o777).toBe(0o600);
    expect(JSON.parse(readFileSync(file, "utf8"))).toMatchObject({
      [world.address]: { visitor: "ada", tokens: { [appOf(world, slug)]: text } },
    });
    expect(await finch(world, ["forget", slug])).toMatchObject({ code: 0 });
    expect(readFileSync(file, "utf8")).not.toContain(text);
    expect((await finch(world, ["talk", slug, "Hello"])).code).toBe(2);
  });

  test("ends quietly where whoever reads it has gone", async ({ world }) => {
    const slug = await world.makeApp("Piped", { settings: { maxOutput: 2_000 } });
    await world.pace(100);
    const command = `${process.execPath} bin/finch.mjs talk ${slug} 'Tell me a long story about the ferry' | head -c 1; echo "\${PIPESTATUS[0]}" >&2`;
    const { err, out } = await run("bash", ["-c", command], {
      FINCH_ADDRESS: world.address,
      XDG_CONFIG_HOME: world.folder,
      NODE_ENV: "production",
    });
    expect([out.length, err]).toEqual([1, "141\n"]);
  });

  test("lists apps, and tells a list that is not open from a server that is away", async ({ world }) => {
    const closed = createServer((_request, response) => {
      response.writeHead(403, { "content-type": "application/problem+json" });
      response.end(
        JSON.stringify(problemDocument(problem("forbidden", "The bench is open only to who came in by its link."))),
      );
    });
    await new Promise<void>((resolve) => closed.listen(0, "127.0.0.1", resolve));
    const address = `http://127.0.0.1:${(closed.address() as AddressInfo).port}`;
    expect(await finch(world, ["apps", "--at", address])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/not open here.*came in by its link/),
    });
    closed.close();
    closed.closeAllConnections();
    expect(await finch(world, ["apps", "--at", address])).toMatchObject({
      code: 1,
      err: expect.stringContaining(`Nothing answers at ${address}`),
    });
  });

  test("gives what the prompt leaves to callers, and is told what is wrong with it", async ({ world }) => {
    const slug = await world.makeApp("Set", { prompt: "You write for {{skipper}}." });
    expect((await finch(world, ["talk", slug, "--set", "skipper=Nia = Ada", "Hello"])).code).toBe(0);
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You write for Nia = Ada.");
    expect(await finch(world, ["talk", slug, "--set", "skipper", "Hello"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("name=value"),
    });
    expect(await finch(world, ["talk", slug, "--set", "mate=Ivo", "Hello"])).toMatchObject({
      code: 2,
      err: expect.stringContaining("Calls may give skipper"),
    });
  });

  test("on a terminal takes lines, commands and Ctrl+C, and leaves by exit", async ({ world }) => {
    const slug = await world.makeApp("Lines");
    const child = spawn("script", ["-qfec", `${process.execPath} bin/finch.mjs talk ${slug} --new`, "/dev/null"], {
      env: {
        ...process.env,
        NODE_ENV: "production",
        FINCH_ADDRESS: world.address,
        XDG_CONFIG_HOME: world.folder,
        TERM: "xterm",
      },
    });
    let screen = "";
    child.stdout.on("data", (part) => {
      screen += part;
    });
    const seen = (what: RegExp) => expect.poll(() => screen, { timeout: 20_000 }).toMatch(what);
    const ended = new Promise<number | null>((resolve) => child.once("exit", resolve));
    await seen(/Talking with/);
    child.stdin.write("What is 12 * 7?\r");
    await seen(/84/);
    child.stdin.write(":reach\r");
    await seen(/1 turns?.*tokens of/);
    child.stdin.write(":nothing\r");
    await seen(/There is no :nothing/);
    await world.pace(20);
    child.stdin.write("Tell me a long story about the ferry\r");
    await expect.poll(async () => (await world.calls()).at(-1)?.messages.at(-1)?.content).toMatch(/story/);
    await expect.poll(() => screen.split("story").at(-1)?.length).toBeGreaterThan(60);
    child.stdin.write("\x03");
    await seen(/\(stopped\)/);
    child.stdin.write("exit\r");
    expect(await ended).toBe(0);
  });
});
