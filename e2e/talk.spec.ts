import type { Page } from "@playwright/test";
import { SignJWT } from "jose";
import { lookSchema } from "@/core/look/look";
import { sampleNames } from "@/ui/talk/samples";
import { expectAccessible } from "./axe";
import { expect, noLimits, test, type World, World as Worlds } from "./fixtures";
import { lateScripts } from "./late-scripts";
import { siteOf } from "./site";
import { openWay } from "./way";

/** The visitors' page, as the tests work with it. */
function talkOf(page: Page, world: World, slug: string) {
  return {
    open: (query = "", base = world.address) => page.goto(`${base}/talk/${slug}${query}`),
    message: page.getByRole("textbox"),
    say: async (text: string) => {
      await page.getByRole("textbox").fill(text);
      await expect(page.getByRole("button", { name: "Send" })).toBeEnabled();
      await page.keyboard.press("Enter");
    },
    rows: page.getByRole("article"),
    last: page.getByRole("article").last(),
    /** The newest reply, while it is in a state. */
    state: (state: string) =>
      page
        .locator('.talk-row[data-role="app"]')
        .last()
        .and(page.locator(`[data-state="${state}"]`)),
    dress: (look: object) => world.bench("PUT", `apps/${slug}/look`, { look: lookSchema.parse(look) }),
  };
}

test.describe("the visitors' page", () => {
  test("answers, remembers, and is found again after a reload, as a conversation of the page", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Page");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await talk.say("I'm Ivo, with two bicycles");
    await expect(talk.state("complete")).toBeVisible();
    await talk.say("What is my name?");
    await expect(talk.rows).toHaveCount(4);
    await expect(talk.state("complete")).toContainText("Ivo");
    await page.reload();
    await expect(talk.rows).toHaveCount(4);
    await expect(talk.last).toContainText("Ivo");
    const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toMatchObject([{ origin: "page", turnCount: 2 }]);
  });

  test("shows by a badge that it is the page, which it renews, where callers need a token", async ({ page, world }) => {
    const slug = await world.makeApp("Badged", {}, { limits: noLimits, callers: "token" });
    const talk = talkOf(page, world, slug);
    await page.clock.install();
    const renewed: number[] = [];
    page.on("response", (response) => response.url().endsWith("/badges") && renewed.push(response.status()));
    await talk.open();
    await talk.say("I'm Ivo");
    await expect(talk.state("complete")).toBeVisible();
    expect(renewed).toEqual([]);
    await page.clock.fastForward("30:00");
    await talk.say("What is my name?");
    await expect(talk.rows).toHaveCount(4);
    await expect(talk.state("complete")).toContainText("Ivo");
    await expect.poll(() => renewed).toEqual([201]);
    // the cookie that it got is worth nothing by itself
    const cookie = (await page.context().cookies(`${world.address}/api/apps/${slug}/`)).map(
      ({ name, value }) => `${name}=${value}`,
    );
    expect(cookie).not.toEqual([]);
    const answer = await fetch(`${world.address}/api/apps/${slug}/conversations`, {
      headers: { cookie: cookie.join("; ") },
    });
    expect(answer.status).toBe(401);
  });

  test("shows the line of another tab, which can be gone to, and loses nothing of either", async ({ page, world }) => {
    const slug = await world.makeApp("Two tabs");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await talk.say("I'm Ivo");
    await expect(talk.state("complete")).toBeVisible();
    const tab = await page.context().newPage();
    const other = talkOf(tab, world, slug);
    await other.open();
    await expect(other.rows).toHaveCount(2);
    await talk.say("What is 12 * 7?");
    await expect(talk.state("complete")).toContainText("84");
    await other.say("What is 6 * 6?");
    await expect(other.state("complete")).toContainText("36");
    await page.reload();
    await expect(talk.rows).toHaveCount(4);
    await expect(talk.state("complete")).toContainText("36");
    await page.getByRole("button", { name: "Message 1 of 2" }).click();
    await expect(talk.state("complete")).toContainText("84");
    await page.getByRole("button", { name: "Another answer" }).click();
    await expect(page.getByRole("button", { name: "Answer 2 of 2" })).toHaveAttribute("aria-current", "true");
    await page.getByRole("button", { name: "Answer 1 of 2" }).click();
    await expect(page.getByRole("button", { name: "Answer 1 of 2" })).toHaveAttribute("aria-current", "true");
    await tab.close();
  });

  test("keeps what was written when the network was gone, through a reload", async ({ page, world }) => {
    const slug = await world.makeApp("Gone");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await expect(page.getByRole("button", { name: "Conversations" })).toBeEnabled();
    await page.route("**/replies", (route) => route.abort());
    await talk.say("Is there room for two bicycles?");
    await expect(page.locator(".talk-failure")).toContainText("You seem to be offline");
    await page.unroute("**/replies");
    await page.reload();
    await expect(talk.message).toHaveValue("Is there room for two bicycles?");
    await expect(page.getByRole("button", { name: "Send" })).toBeEnabled();
    await talk.message.press("Enter");
    await expect(talk.state("complete")).toBeVisible();
    await page.reload();
    await expect(talk.rows).toHaveCount(2);
    await expect(talk.message).toHaveValue("");
  });

  test("lists more than twenty conversations, and Escape closes the list", async ({ page, world }) => {
    const slug = await world.makeApp("Many");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await talk.say("Hello");
    await expect(talk.state("complete")).toBeVisible();
    await page.evaluate(async (slug) => {
      for (let each = 0; each < 24; each += 1)
        await fetch(`/api/apps/${slug}/replies`, {
          method: "POST",
          body: JSON.stringify({ message: `Hello ${each}` }),
        });
    }, slug);
    const opener = page.getByRole("button", { name: "Conversations" });
    await opener.click();
    const list = page.getByRole("region", { name: "Your conversations" });
    await expect(list.getByRole("listitem")).toHaveCount(20);
    await list.getByRole("button", { name: "Earlier conversations" }).click();
    await expect(list.getByRole("listitem")).toHaveCount(25);
    await list.getByRole("button", { name: "Close" }).focus();
    await page.keyboard.press("Escape");
    await expect(list).toHaveCount(0);
    await expect(opener).toBeFocused();
  });

  test("copies code, and takes each colour from the developer's sheet, the accent too", async ({ page, world }) => {
    const slug = await world.makeApp("Code");
    const talk = talkOf(page, world, slug);
    await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
    await talk.dress({ style: ":root { --accent: rgb(10, 20, 30); --on-accent: rgb(240, 241, 242); }" });
    await talk.open("?state=long-code");
    await expect(page.locator(".talk-head")).toHaveCSS("background-color", "rgb(10, 20, 30)");
    await expect(page.locator(".talk-head")).toHaveCSS("color", "rgb(240, 241, 242)");
    await page.getByRole("button", { name: "Copy" }).first().click();
    await expect(page.getByRole("button", { name: "Copied" })).toBeVisible();
    expect(await page.evaluate(() => navigator.clipboard.readText())).toContain("departures = {");
  });

  test("asks first for what the prompt leaves to callers, takes it from its address, and remembers it", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Asking", { prompt: "You write for {{skipper}} of {{homePort}}." });
    const talk = talkOf(page, world, slug);
    await talk.open("?skipper=Nia");
    const form = page.getByRole("form", { name: "Before we begin" });
    await expect(form.getByRole("textbox")).toHaveCount(1);
    await expect(form.getByRole("button", { name: "Begin" })).toBeDisabled();
    await form.getByRole("textbox", { name: "Home port" }).fill("Tansy Holm");
    await page.keyboard.press("Enter");
    await talk.say("Hello");
    await expect(talk.state("complete")).toBeVisible();
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You write for Nia of Tansy Holm.");
    await page.getByRole("button", { name: "Another answer" }).click();
    await expect.poll(async () => (await world.calls()).at(-1)?.messages.length).toBe(2);
    await expect(talk.state("complete")).toBeVisible();
    await page.reload();
    await expect(talk.rows).toHaveCount(2);
    await talk.open();
    await expect(form.getByRole("textbox", { name: "Skipper" })).toBeVisible();
  });

  test("comes back in the middle of a reply, keeps what is typed, and stops", async ({ page, world }) => {
    const slug = await world.makeApp("Middle", { settings: { maxOutput: 3_000 } });
    const talk = talkOf(page, world, slug);
    await world.pace(30);
    await talk.open();
    await talk.say("Tell me a long story about the ferry");
    await expect(talk.state("arriving")).toBeVisible();
    await talk.message.fill("And then I would like to");
    await page.reload();
    await expect(talk.message).toHaveValue("And then I would like to");
    await expect(talk.state("arriving")).toBeVisible();
    const before = (await talk.last.innerText()).length;
    await expect.poll(async () => (await talk.last.innerText()).length).toBeGreaterThan(before);
    await page.getByRole("button", { name: "Stop" }).click();
    await expect(talk.state("stopped")).toBeVisible();
    await world.pace("instant");
    await page.getByRole("button", { name: "Go on" }).click();
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.rows).toHaveCount(2);
  });

  test("gives another answer in the place of the last, and keeps that", async ({ page, world }) => {
    const slug = await world.makeApp("Another", { settings: { temperature: 2 } });
    const talk = talkOf(page, world, slug);
    await talk.open();
    await talk.say("Tell me a joke");
    await expect(talk.state("complete")).toBeVisible();
    await page.getByRole("button", { name: "Another answer" }).click();
    const calls = () => world.bench<{ calls: unknown[] }>("GET", `apps/${slug}/calls`);
    await expect.poll(async () => (await calls()).calls.length).toBe(2);
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.rows).toHaveCount(2);
    const words = await talk.last.locator(".talk-text").innerText();
    await page.reload();
    await expect(talk.last.locator(".talk-text")).toHaveText(words);
    await talk.say("What did I ask first?");
    await expect(talk.rows).toHaveCount(4);
    await expect(talk.state("complete")).toContainText("joke");
    await talk.dress({ shows: { again: false } });
    await page.reload();
    await expect(talk.rows).toHaveCount(4);
    await expect(page.getByRole("button", { name: "Another answer" })).toHaveCount(0);
  });

  test("says what failed in the developer's words, and tries again in its place", async ({ page, world }) => {
    const slug = await world.makeApp("Failing");
    const talk = talkOf(page, world, slug);
    await talk.dress({ failures: { overloaded: "The ferry is full just now." } });
    await world.fault({ fault: "status", status: 503, calls: 1 });
    await talk.open();
    await talk.say("I'm Ivo");
    await expect(talk.last.getByRole("alert")).toHaveText("The ferry is full just now.");
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.rows).toHaveCount(2);
  });

  test("keeps what could not be sent, and sends it once when it can", async ({ page, world }) => {
    const slug = await world.makeApp("Offline");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await page.route("**/replies", (route) => route.abort());
    await talk.say("I'm Ivo");
    await expect(talk.last.getByRole("alert")).toContainText("offline");
    await page.unroute("**/replies");
    await page.getByRole("button", { name: "Try again" }).click();
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.rows).toHaveCount(2);
    const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toHaveLength(1);
  });

  test("comes back by itself after the connection was cut", async ({ page, world }) => {
    const slug = await world.makeApp("Cut off");
    const talk = talkOf(page, world, slug);
    // it arrives until it is told to hurry
    await world.pace(0.5);
    const way = await openWay(Number(new URL(world.address).port));
    await talk.open("", way.address);
    await talk.say("Tell me about the ferry, please, in three sentences");
    await expect(talk.state("arriving")).toBeVisible();
    way.cut();
    await world.hurry();
    await expect(talk.state("complete")).toBeVisible();
    const said = (await world.calls()).at(-1)?.said ?? "";
    expect((await talk.last.innerText()).replace(/\s+/g, " ")).toContain(said.replace(/\s+/g, " ").trim());
    await way.close();
  });

  test("lists this visitor's conversations, begins new ones, deletes, and forgets", async ({
    page,
    browser,
    world,
  }) => {
    const slug = await world.makeApp("Lists");
    const talk = talkOf(page, world, slug);
    await talk.open();
    await talk.say("First things first");
    await expect(talk.state("complete")).toBeVisible();
    await page.getByRole("button", { name: "New", exact: true }).click();
    await expect(talk.rows).toHaveCount(0);
    await talk.say("Second thoughts");
    await expect(talk.state("complete")).toBeVisible();
    await page.getByRole("button", { name: "Conversations" }).click();
    const list = page.getByRole("region", { name: "Your conversations" });
    await expect(list.getByRole("listitem")).toHaveCount(2);
    await list.getByRole("button", { name: /^First things first/ }).click();
    await expect(talk.rows.first()).toContainText("First things first");
    await page.getByRole("button", { name: "Conversations" }).click();
    await list.getByRole("button", { name: "Delete: Second thoughts" }).click();
    await list.getByRole("button", { name: "Delete for good: Second thoughts" }).click();
    await expect(list.getByRole("listitem")).toHaveCount(1);

    const other = await (await browser.newContext()).newPage();
    await other.goto(`${world.address}/talk/${slug}`);
    await other.getByRole("button", { name: "Conversations" }).click();
    await expect(other.getByText("There are none yet.")).toBeVisible();

    await list.getByRole("button", { name: "Forget me" }).click();
    await list.getByRole("button", { name: "Forget me" }).click();
    await expect(talk.rows).toHaveCount(0);
    const { conversations } = await world.bench<{ conversations: unknown[] }>("GET", `apps/${slug}/conversations`);
    expect(conversations).toEqual([]);
  });

  test("whose scripts come late takes no click that it would lose, and keeps what is typed", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Late");
    const talk = talkOf(page, world, slug);
    await talk.dress({ questions: ["What is 12 * 7?"] });
    const scripts = await lateScripts(page);
    await page.goto(`${world.address}/talk/${slug}`, { waitUntil: "commit" });
    const question = page.getByRole("button", { name: "What is 12 * 7?" });
    await expect(question).toBeDisabled();
    await talk.message.fill("Typed early");
    scripts.come();
    await expect(question).toBeEnabled();
    await expect(talk.message).toHaveValue("Typed early");
    await talk.message.press("Enter");
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.rows.first()).toContainText("Typed early");
  });

  test("announces a reply once it is whole, and can be used by keys alone", async ({ page, world }) => {
    const slug = await world.makeApp("Spoken");
    const talk = talkOf(page, world, slug);
    await talk.dress({ questions: ["What is 12 * 7?"], greeting: "Ask me." });
    await talk.open();
    await expect(page.getByRole("button", { name: "What is 12 * 7?" })).toBeEnabled();
    await page.getByRole("button", { name: "What is 12 * 7?" }).focus();
    await page.keyboard.press("Enter");
    await expect(page.getByRole("status").first()).toContainText("84");
    await talk.message.focus();
    await world.pace(20);
    await talk.say("Tell me a long story");
    await expect(talk.state("arriving")).toBeVisible();
    await expect(page.getByRole("status").first()).not.toContainText("story");
    await page.keyboard.press("Escape");
    await expect(talk.state("stopped")).toBeVisible();
  });

  test("shows Markdown safely, or the words of it alone", async ({ page, world }) => {
    const slug = await world.makeApp("Marks");
    const talk = talkOf(page, world, slug);
    await talk.dress({ shows: { tokens: true, cost: true, times: true } });
    await talk.open();
    await talk.say(
      'Please say exactly this: "**Bold** <img src=x onerror=alert(1)> [away](javascript:alert(1)) ![a boat](http://elsewhere.test/a.png)"',
    );
    await expect(talk.state("complete")).toBeVisible();
    await expect(talk.last.locator("img, a[href^='javascript']")).toHaveCount(0);
    await expect(talk.last.locator(".talk-facts")).toContainText(/\d:\d\d.* · .*tokens · €/);
    await talk.dress({ text: "plain" });
    await talk.open("?state=long-code");
    await expect(page.locator("table, pre")).toHaveCount(0);
    await expect(talk.last).toContainText("Tansy Holm, 3, 8:00");
  });

  test("of a preview answers with that revision, and is nowhere else", async ({ page, world }) => {
    const slug = await world.makeApp("Previews", { prompt: "You are live." });
    expect((await page.goto(`${world.address}/talk/${slug}/preview`))?.status()).toBe(404);
    const app = await world.bench<{ draft: object }>("GET", `apps/${slug}`);
    await world.bench("PUT", `apps/${slug}/preview`, { content: { ...app.draft, prompt: "You are the preview." } });
    const talk = talkOf(page, world, slug);
    await page.goto(`${world.address}/talk/${slug}/preview`);
    await talk.say("Hello");
    await expect(talk.state("complete")).toBeVisible();
    expect((await world.calls()).at(-1)?.messages[0]?.content).toBe("You are the preview.");
  });

  test("that is closed is not there", async ({ page, world }) => {
    const slug = await world.makeApp("Closed", {}, { limits: noLimits, page: false });
    expect((await page.goto(`${world.address}/talk/${slug}`))?.status()).toBe(404);
    await expect(page.getByRole("heading")).toHaveText("There is nothing here");
  });
});

test.describe("every state of the page", () => {
  for (const state of sampleNames)
    test(`${state}: can be looked at without a call, and is accessible light, dark, narrow and from the right`, async ({
      page,
      world,
    }) => {
      const slug = await world.makeApp("States");
      const talk = talkOf(page, world, slug);
      const calls: string[] = [];
      page.on("request", (request) => request.url().includes("/api/") && calls.push(request.url()));
      for (const { width, ...look } of [
        { width: 1024, scheme: "light" },
        { width: 320, scheme: "dark", rows: "plain" },
        { width: 1024, direction: "rtl", density: "dense" },
      ]) {
        await talk.dress({ ...look, questions: ["What is it?"], smallPrint: "Small print.", avatars: "both" });
        await talk.open(`?state=${state}`);
        await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
        await page.setViewportSize({ width, height: 700 });
        await expectAccessible(page, JSON.stringify(look));
        for (const narrow of [1024, 320]) {
          await page.setViewportSize({ width: narrow, height: 700 });
          const overflow = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
          expect(overflow).toBeLessThanOrEqual(0);
        }
      }
      expect(calls).toEqual([]);
    });

  test("words of 200 letters stay within 320 px", async ({ page, world }) => {
    const slug = await world.makeApp("Long words");
    const talk = talkOf(page, world, slug);
    const word = "Seilschifffahrt".repeat(14).slice(0, 200);
    await talk.dress({ title: word.slice(0, 60), subtitle: word.slice(0, 120), questions: [word], smallPrint: word });
    await page.setViewportSize({ width: 320, height: 700 });
    await talk.open();
    await talk.say(word);
    await expect(talk.state("complete")).toBeVisible();
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(320);
  });
});

test.describe("what a page may not do", () => {
  test("a developer's style sheet reaches neither the bench nor another app", async ({ page, world }) => {
    const [slug, other] = [await world.makeApp("Styled"), await world.makeApp("Unstyled")];
    await talkOf(page, world, slug).dress({ style: "body { background: rgb(1, 2, 3) !important }" });
    const background = () => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
    await page.goto(`${world.address}/talk/${slug}`);
    expect(await background()).toBe("rgb(1, 2, 3)");
    for (const path of [`/talk/${other}`, `/apps/${slug}/serve`, "/apps"]) {
      await page.goto(world.address + path);
      expect(await background()).not.toBe("rgb(1, 2, 3)");
    }
  });

  test("a frame stays empty on a page of an origin that is not allowed", async ({ page, world }) => {
    const slug = await world.makeApp("Framed");
    const elsewhere = await siteOf(`<iframe src="${world.address}/talk/${slug}"></iframe>`);
    const { origin } = elsewhere;
    const heading = page.frameLocator("iframe").getByRole("heading", { level: 1 });
    await page.goto(`${origin}/`);
    await expect.poll(() => page.frames()[1]?.url()).toContain("chrome-error");
    await expect(heading).toHaveCount(0);
    await world.bench("PUT", `apps/${slug}/access`, { access: { origins: [origin] } });
    await page.goto(`${origin}/`);
    await expect(heading).toHaveText("Framed");
    const frame = page.frameLocator("iframe");
    for (const text of ["I'm Ivo", "What is my name?"]) {
      await frame.getByRole("textbox").fill(text);
      await frame.getByRole("button", { name: "Send" }).click();
      await expect(frame.locator('.talk-row[data-state="complete"]').last()).toContainText("Ivo");
    }
    elsewhere.close();
  });

  test("in a frame of another site answers and goes on where nothing is kept for it, and tells the site what happens", async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp("Embedded", {}, { limits: noLimits, callers: "token" });
    const { text } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, { kind: "site", name: "Site" });
    const html = `<iframe src="${world.address}/talk/${slug}" width="420" height="560"></iframe><script>
      window.heard = [];
      addEventListener("message", ({ data, source }) => {
        window.heard.push(data);
        if (data.finch === "opened") source.postMessage({ finch: "closable" }, "*");
      });</script>`;
    const site = await siteOf(html);
    await world.bench("PUT", `apps/${slug}/access`, {
      access: { callers: "token", origins: [site.origin], limits: noLimits },
    });
    // as a browser does that keeps nothing for sites in frames
    await page.addInitScript(() => {
      if (window.parent === window) return;
      Object.defineProperty(window, "localStorage", {
        get() {
          throw new DOMException("It is denied.", "SecurityError");
        },
      });
    });
    const cookies: string[] = [];
    page.on("response", async (response) => {
      const cookie = await response.headerValue("set-cookie").catch(() => null);
      if (cookie) cookies.push(cookie);
    });
    await page.goto(`${site.origin}/`);
    const frame = page.frameLocator("iframe");
    const heard = (what: string) =>
      page.evaluate(
        (what) => (window as unknown as { heard: { finch: string }[] }).heard.filter(({ finch }) => finch === what),
        what,
      );
    for (const said of ["I'm Ivo", "What is my name?"]) {
      await frame.getByRole("textbox").fill(said);
      await frame.getByRole("button", { name: "Send" }).click();
      await expect(frame.locator('.talk-row[data-state="complete"]').last()).toContainText("Ivo");
    }
    expect(cookies).toEqual([]);
    expect(await heard("opened")).toHaveLength(1);
    await expect.poll(() => heard("reply")).toMatchObject([{ state: "complete" }, { state: "complete" }]);
    await expect.poll(async () => (await heard("height")).length).toBeGreaterThan(0);
    await frame.getByRole("button", { name: "Close" }).click();
    await expect.poll(() => heard("closed")).toHaveLength(1);
    // the site says who the visitor is: the same as everywhere else
    const identity = await new SignJWT({ sub: "ada" })
      .setProtectedHeader({ alg: "HS256" })
      .setExpirationTime("1h")
      .sign(new TextEncoder().encode(text));
    await page.evaluate((identity) => {
      const { contentWindow } = document.querySelector("iframe") as HTMLIFrameElement;
      contentWindow?.postMessage({ finch: "identity", identity }, "*");
    }, identity);
    await expect(frame.locator('.talk-row[data-role="visitor"]')).toHaveCount(0);
    await frame.getByRole("textbox").fill("Hello");
    await frame.getByRole("button", { name: "Send" }).click();
    await expect(frame.locator('.talk-row[data-role="visitor"]')).toHaveCount(1);
    await expect(frame.locator('.talk-row[data-role="app"][data-state="complete"]')).toBeVisible();
    const { conversations } = await world.bench<{ conversations: { visitor: string | null }[] }>(
      "GET",
      `apps/${slug}/conversations`,
    );
    expect(conversations.map(({ visitor }) => visitor)).toEqual(["ada", null]);
    site.close();
  });

  test("no script but its own runs, wherever it comes from", async ({ page, world }) => {
    const slug = await world.makeApp("Scripts");
    const answer = await page.goto(`${world.address}/talk/${slug}`);
    expect(answer?.headers()["content-security-policy"]).toContain("script-src 'self' 'nonce-");
    const refused = page.waitForEvent("console", (message) => message.text().includes("Content Security Policy"));
    await page.evaluate(() => {
      const script = document.createElement("script");
      script.textContent = "window.wasRun = true";
      document.body.append(script);
      document.body.insertAdjacentHTML("beforeend", '<img src="x" onerror="window.wasRun = true">');
    });
    await refused;
    expect(await page.evaluate(() => "wasRun" in window)).toBe(false);
  });
});

test("the page at a port of its own is the same, and the bench shows it there", async ({ page }) => {
  test.setTimeout(120_000);
  const world = await Worlds.make();
  try {
    await Promise.all([world.startStandIn(), world.startWeb(world.apart)]);
    await world.pace("instant");
    const slug = await world.makeApp("Apart");
    const talk = talkOf(page, world, slug);
    await talk.open("", world.talk);
    await talk.say("What is 12 * 7?");
    await expect(talk.state("complete")).toContainText("84");
    await page.goto(`${world.address}/apps/${slug}/serve`);
    await expect(page.frameLocator("iframe").getByRole("heading", { level: 1 })).toHaveText("Apart");
  } finally {
    await world.stop();
  }
});
