import type { Page } from "@playwright/test";
import type { Content } from "@/core/revision/content";
import { buildOf, expect, type StandInName, standIns, test, type World } from "./fixtures";

const models: [name: StandInName, model: string, thinks: boolean, streams: boolean][] = [
  ["Reedbed", "reed-deep", true, true],
  ["Saltpan", "pan-clear", true, true],
  ["Tidegate", "tide-wide", true, true],
  ["Lantern", "lantern-one", false, true],
  ["Bellhouse", "bell-plain", false, false],
];

/** Opens a provider in the Providers view. */
async function openProvider(page: Page, world: World, name: StandInName): Promise<string> {
  const id = await world.wire(name);
  await page.goto(`${world.address}/providers`);
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: new RegExp(`^${name}`) })
    .click();
  await expect(page.getByRole("textbox", { name: "Name" })).toHaveValue(name);
  return id;
}

test("every stand-in answers by changing nothing but the model in the Model sentence", async ({ page, world }) => {
  for (const [name] of models) await world.wire(name);
  const slug = await world.makeApp("Switch", {
    prompt: "You are Switch, the desk of a ferry line.",
    settings: { maxOutput: 400 },
  });
  const build = buildOf(page, world);
  for (const [name, model, thinks, streams] of models) {
    await build.open(slug);
    await page.keyboard.press("Alt+5");
    await page.getByRole("combobox", { name: "Model" }).click();
    await page.getByTitle(`${model} on ${name}`).first().click();
    await build.message.click();
    await world.pace("instant");
    await build.say("I'm on the 9:40 with two bicycles");
    await expect(build.reply(1, "complete")).toBeVisible();
    // slow enough that a stall of the machine does not make a burst of the stream
    await world.pace(20);
    await build.say("Which boat am I on, and with how many bicycles?");
    const reply = build.reply(2, "complete");
    await expect(reply).toContainText("on the 9:40");
    await expect(reply).toContainText("two bicycles");
    await expect(reply.getByText("what it thought")).toHaveCount(thinks ? 1 : 0);
    await expect(reply).toContainText(`· ${model}`);
    await reply.getByRole("button", { name: /^Dispatch/ }).click();
    const sheet = page.getByRole("region", { name: "Dispatch" });
    await expect(sheet).toContainText(streams ? "bit by bit" : "does not stream");
    await expect(sheet).not.toContainText("estimated, ");
    const told = await sheet.textContent();
    const [, counted] = /the provider counted ([\d,]+)/.exec(told ?? "") ?? [];
    expect(Number(counted?.replace(",", ""))).toBeGreaterThan(20);
    await sheet.getByRole("button", { name: "fold" }).click();
  }
});

test("a command that works is fitted, with a live call and one answer to a question, into a provider that answers", async ({
  page,
  world,
}) => {
  await world.wire();
  await page.goto(`${world.address}/providers`);
  await page.getByRole("button", { name: "Wire another" }).click();
  const body = {
    tide: "tide-neap",
    course: [
      { voice: "harbour", parts: [{ words: "Speak like a skipper." }] },
      { voice: "caller", parts: [{ words: "When is the first boat to Brindle?" }] },
      { voice: "keeper", parts: [{ words: "At 7:20." }] },
      { voice: "caller", parts: [{ words: "And the last one to Brindle?" }] },
    ],
    trim: { ceiling: 300, heat: 0.2 },
  };
  const command = page.getByRole("textbox", { name: "A command that works" });
  await command.fill("curl nothing; curl more");
  await expect(page.getByRole("status").filter({ hasText: "Paste one command alone" })).toBeVisible();
  await command.fill(
    `curl "${world.at("Tidegate")}/tides/flow?pass=$TIDEGATE_KEY" -H 'content-type: application/json' -d '${JSON.stringify(body)}'`,
  );
  await page.getByRole("button", { name: "Make the call" }).click();
  await expect(page.getByRole("list", { name: "What it can't know" })).toContainText("The reply ended with “ebb”");
  await page.getByRole("combobox", { name: /ended with/ }).click();
  await page.getByTitle("complete", { exact: true }).click();
  await expect(page.locator("p", { hasText: "Read as" })).toContainText("complete");
  await expect(page.getByRole("region", { name: "The request, as it was read" })).toContainText("tide-neap");
  const wire = page.getByRole("button", { name: "Wire it" });
  await expect(wire).toHaveAccessibleDescription("waits for a name");
  await page.getByRole("textbox", { name: "Name" }).fill("Fitted");
  const window = page.getByRole("textbox", { name: "Context window in tokens" });
  await window.fill("many");
  await expect(wire).toHaveAccessibleDescription("waits for a window in whole tokens, or none");
  await window.fill("");
  await wire.click();
  await expect(page.getByRole("textbox", { name: "Address" })).toHaveValue(world.at("Tidegate"));

  const { providers } = await world.bench<{ providers: { id: string; name: string }[] }>("GET", "providers");
  const fitted = providers.find(({ name }) => name === "Fitted");
  const slug = await world.makeApp("Fitted app", { provider: fitted?.id, model: "tide-neap" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("My name is Ivo");
  await expect(build.reply(1, "complete")).toBeVisible();
  await build.say("What is my name?");
  await expect(build.reply(2, "complete")).toContainText("Ivo");
});

test("a probe goes through its steps with each stand-in and finds nothing wrong", async ({ page, world }) => {
  for (const name of standIns) {
    await openProvider(page, world, name);
    await page.getByRole("button", { name: "Probe it" }).click();
    await expect(page.getByRole("region", { name: "Probe" }).getByRole("status")).toContainText("nothing is wrong", {
      timeout: 30_000,
    });
    await expect(page.getByRole("region", { name: "Probe" }).getByRole("listitem")).toHaveCount(13);
  }
});

test("a model that is not switched on is named in the list and by the preflight, and is switched on with one click", async ({
  page,
  world,
}) => {
  const id = await world.wire("Bellhouse");
  await world.takeBellsDown();
  const slug = await world.makeApp("Silent", { provider: id, model: "bell-plain" });
  const build = buildOf(page, world);
  await build.open(slug);
  await expect(page.getByRole("region", { name: "Before this app can answer" })).toContainText(
    "bell-plain is not switched on at Bellhouse. Switch it on",
  );
  await build.say("Hello");
  await expect(build.reply(1, "failed").getByRole("alert")).toContainText("is not hung yet");
  await page.getByRole("link", { name: "Providers" }).first().click();
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: /^Bellhouse/ })
    .click();
  await page.getByRole("button", { name: "switch it on" }).click();
  await expect(page.getByText("not switched on there")).toHaveCount(0);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
});

test("a profile is edited as JSON: what is wrong is shown in place, the reading is live, nothing typed is lost", async ({
  page,
  world,
}) => {
  await openProvider(page, world, "Saltpan");
  await page.getByRole("button", { name: "ask it now" }).click();
  const answer = page.getByRole("region", { name: "What it answers" });
  await expect(answer.locator("p", { hasText: "Read as" })).toContainText("complete");
  await page.getByRole("button", { name: "edit as JSON" }).click();
  const editor = page.getByRole("textbox", { name: "Wire profile as JSON" });
  await editor.click();
  const gets = page.getByRole("region", { name: "What it gets" });
  const replace = async (from: string, to: string) => {
    const text = await world.bench<{ providers: { name: string; profile: object }[] }>("GET", "providers");
    const profile = JSON.stringify(text.providers.find(({ name }) => name === "Saltpan")?.profile, undefined, 2);
    expect(profile).toContain(from);
    await page.keyboard.press("Control+A");
    await page.evaluate((written) => navigator.clipboard.writeText(written), profile.replace(from, to));
    await page.keyboard.press("Control+V");
  };
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  await replace("$.sofar", "$.sofar[0");
  await expect(gets.getByRole("status")).toContainText(
    'answer.stream.rules[0].text: "$.sofar[0" is not a JSONPath: expected "]"',
  );
  // the place is marked a moment after the last keystroke
  await expect(async () => {
    await page.keyboard.press("F8");
    await expect(editor.locator(".cm-lintRange-error")).toContainText("sofar", { timeout: 500 });
  }).toPass();
  await expect(gets.getByRole("button", { name: "keep it" })).toBeDisabled();
  await page.getByRole("link", { name: "Apps" }).click();
  await page.getByRole("link", { name: "Providers" }).click();
  await page
    .getByRole("navigation", { name: "Providers" })
    .getByRole("button", { name: /^Saltpan/ })
    .click();
  await expect(gets.getByRole("status")).toContainText("$.sofar[0");
  await page.getByRole("textbox", { name: "Wire profile as JSON" }).click();
  await replace('"done": "complete"', '"done": "length"');
  await expect(answer.locator("p", { hasText: "Read as" })).toContainText("cut");
  await gets.getByRole("button", { name: "drop the changes" }).click();
  await expect(answer.locator("p", { hasText: "Read as" })).toContainText("complete");
});

test("models are found among those that are listed, taken out, and a profile is exported without its key", async ({
  page,
  world,
}) => {
  await openProvider(page, world, "Saltpan");
  await page.getByRole("button", { name: "Delete pan-brief" }).click();
  await page
    .getByRole("dialog", { name: "Delete pan-brief from Saltpan?" })
    .getByRole("button", { name: "Delete it for good" })
    .click();
  await expect(page.getByRole("row", { name: /pan-brief/ })).toHaveCount(0);
  await page.getByRole("textbox", { name: "Find or type a model" }).fill("brief");
  await page.getByRole("button", { name: "Add pan-brief" }).click();
  await expect(
    page.getByRole("row", { name: /pan-brief/ }).getByRole("spinbutton", { name: "Context window of pan-brief" }),
  ).toHaveValue("6000");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "download its profile" }).click();
  const file = await download;
  expect(file.suggestedFilename()).toBe("saltpan.profile.json");
  const text = await (await import("node:fs/promises")).readFile(await file.path(), "utf8");
  expect(JSON.parse(text)).toMatchObject({ profile: 1, shape: expect.stringContaining("Named events") });
  expect(text).not.toMatch(/SALTPAN_KEY|salt-91bd/);
});

test("a key that is typed once is sealed and never shown again", async ({ page, world }) => {
  const id = await openProvider(page, world, "Saltpan");
  await page.getByRole("button", { name: "type it once instead" }).click();
  await page.getByLabel("The key, typed once").fill("salt-91bd-sample");
  await page.getByRole("button", { name: "seal it" }).click();
  await expect(page.getByRole("main")).toContainText("a key that is sealed here");
  await expect(page.getByRole("main")).toContainText("It answers in");
  const everything = JSON.stringify(await world.bench("GET", "providers"));
  expect(everything).not.toContain("salt-91bd");
  await world.bench("PATCH", `providers/${id}`, { credential: { kind: "key", secret: { variable: "SALTPAN_KEY" } } });
});

test("429 with Retry-After is waited for, which is shown, and then answered; a wait can be stopped", async ({
  page,
  world,
}) => {
  const id = await world.wire();
  await world.bench("PATCH", `providers/${id}`, { retries: 2 });
  try {
    const build = buildOf(page, world);
    await build.open(await world.makeApp("Waits"));
    await world.fault({ fault: "status", status: 429, retryAfter: 2, calls: 1 });
    await build.say("When do boats go to Brindle?");
    await expect(build.reply(1, "waiting")).toContainText(
      "The provider asks to slow down. Waiting 2 s, then attempt 2",
    );
    await expect(build.reply(1, "complete")).toContainText("7:20");
    await expect(build.reply(1)).toContainText("after 2 attempts");
    await build
      .reply(1)
      .getByRole("button", { name: /^Dispatch/ })
      .click();
    await page.getByRole("combobox", { name: "Attempt" }).click();
    await page.getByTitle("attempt 1 of 2: failed: asked to slow down").click();
    await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("A fault plan answers 429");
    await page.getByRole("region", { name: "Dispatch" }).getByRole("button", { name: "fold" }).click();
    await world.fault({ fault: "status", status: 429, retryAfter: 30 });
    await build.say("And to Tansy Holm?");
    await expect(build.reply(2, "waiting")).toContainText("Waiting 30 s");
    await page.keyboard.press("Escape");
    await expect(build.reply(2, "stopped")).toBeVisible();
  } finally {
    await world.bench("PATCH", `providers/${id}`, { retries: 0 });
  }
});

test("a fallback that is named in the sentence answers, and the reply says so and why", async ({ page, world }) => {
  await world.wire("Saltpan");
  const build = buildOf(page, world);
  await build.open(await world.makeApp("Falls back"));
  await page.keyboard.press("Alt+5");
  await page.getByRole("combobox", { name: "Fallback 1" }).click();
  await page.getByTitle("pan-clear on Saltpan").first().click();
  await world.fault({ fault: "status", status: 503 });
  await build.message.click();
  await build.say("When do boats go to Brindle?");
  const reply = build.reply(1, "complete");
  await expect(reply).toContainText("7:20");
  await expect(reply).toContainText("pan-clear");
  await expect(reply).toContainText("instead of reed-swift: overloaded");
});

test("the request of a dispatch is edited and sent again beside the first, and copied as curl with its key by name", async ({
  page,
  world,
}) => {
  const build = buildOf(page, world);
  await page.context().grantPermissions(["clipboard-read", "clipboard-write"]);
  await build.open(await world.makeApp("Again and again"));
  await build.say("When do boats go to Brindle?");
  await build
    .reply(1, "complete")
    .getByRole("button", { name: /^Dispatch/ })
    .click();
  const sheet = page.getByRole("region", { name: "Dispatch" });
  await expect(sheet.getByRole("textbox", { name: "Headers" })).toHaveValue(/Bearer ••••/);
  await sheet.getByRole("button", { name: "copy as curl" }).click();
  await expect(sheet.getByRole("button", { name: "copied" })).toBeVisible();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain('"authorization: Bearer $REEDBED_KEY"');
  const body = sheet.getByRole("textbox", { name: "Body" });
  await body.fill((await body.inputValue()).replace("When do boats go to Brindle?", "What does a dog cost?"));
  await sheet.getByRole("button", { name: "Send again" }).click();
  await expect(sheet.getByRole("region", { name: "The answer to what was sent again" })).toContainText("status 200");
  await sheet.getByRole("textbox", { name: "Address" }).fill("http://127.0.0.1:9/elsewhere");
  await sheet.getByRole("button", { name: "Send again" }).click();
  await expect(sheet.getByRole("alert")).toContainText("carries the key of Reedbed");
  await expect(sheet.getByRole("textbox", { name: "Address" })).toHaveValue("http://127.0.0.1:9/elsewhere");
  await expect(page.getByRole("article", { name: /Turn 2/ })).toHaveCount(0);
});

test.describe("every fault plan, on every stand-in", () => {
  const whole = ["complete"];
  /** What a plan may end in, where the stand-in streams and where it does not. */
  const plans: [plan: Record<string, unknown> & { fault: string }, streamed: string[], once: string[]][] = [
    [{ fault: "slow-start", ms: 100 }, whole, whole],
    [{ fault: "slow-drip", ms: 5 }, whole, whole],
    [{ fault: "stalled", after: 3 }, ["timed-out"], ["timed-out"]],
    [{ fault: "dropped", after: 3 }, ["broken-off"], ["broken-off"]],
    [{ fault: "broken-json", after: 3 }, ["bad-reply"], ["bad-reply"]],
    [{ fault: "cut-in-character" }, whole, whole],
    [{ fault: "cut-at-every-byte" }, whole, whole],
    [{ fault: "held-back" }, whole, whole],
    ...[400, 401, 403, 404, 429, 500, 503].map(
      (status): [Record<string, unknown> & { fault: string }, string[], string[]] => {
        const kinds: Record<number, string> = {
          400: "misconfigured",
          401: "unauthorised",
          403: "not-allowed",
          404: "misconfigured",
          429: "rate-limited",
          500: "overloaded",
          503: "overloaded",
        };
        const kind = kinds[status] ?? "";
        return [{ fault: "status", status }, [kind], [kind]];
      },
    ),
    [{ fault: "redirect" }, ["misconfigured"], ["misconfigured"]],
    [{ fault: "page" }, ["bad-reply"], ["bad-reply"]],
    [{ fault: "empty" }, ["empty"], ["empty"]],
    [{ fault: "no-end" }, ["broken-off"], whole],
    [{ fault: "twice", after: 2 }, whole, whole],
    [{ fault: "never-ends" }, ["timed-out"], ["timed-out"]],
    [{ fault: "no-usage" }, whole, whole],
    [{ fault: "wrong-usage" }, whole, whole],
  ];

  for (const [name, model, , streams] of models)
    test(`ends in the right problem or a whole reply on ${name}, and the next message works`, async ({ world }) => {
      const id = await world.wire(name);
      const usual = { connect: 5_000, first: 60_000, between: 30_000, all: 300_000 };
      await world.bench("PATCH", `providers/${id}`, { limits: { ...usual, between: 400, all: 1500 } });
      const change: Partial<Content> = { provider: id, model, settings: { maxOutput: 300 } };
      const slug = await world.makeApp(`Faults of ${name}`, change);
      const ask = async () => {
        const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
          method: "POST",
          body: JSON.stringify({ message: "When do boats go to Brindle — and why?" }),
        });
        const answer = (await response.json()) as {
          kind?: string;
          end?: string;
          text?: string;
          usage?: { estimated: boolean };
        };
        return {
          how: answer.kind ?? answer.end ?? "nothing",
          text: answer.text ?? "",
          estimated: answer.usage?.estimated,
        };
      };
      try {
        const usualReply = await ask();
        expect(usualReply.how).toBe("complete");
        for (const [plan, streamed, once] of plans) {
          await world.fault(plan, name);
          const reply = await ask();
          expect([plan.fault, plan.status, reply.how]).toEqual([
            plan.fault,
            plan.status,
            (streams ? streamed : once)[0],
          ]);
          if (reply.how === "complete" && plan.fault !== "twice")
            expect([plan.fault, reply.text]).toEqual([plan.fault, usualReply.text]);
          if (plan.fault.endsWith("usage")) expect([plan.fault, reply.estimated]).toEqual([plan.fault, true]);
          await world.fault(null, name);
          expect((await ask()).how).toBe("complete");
        }
      } finally {
        await world.bench("PATCH", `providers/${id}`, { limits: usual });
      }
    });
});

test("a provider that no app uses is deleted once that was asked, and one that is used says by how many", async ({
  page,
  world,
}) => {
  const { models } = (await (await fetch(`${world.at("Lantern")}/standin/about`)).json()) as { models: object[] };
  await world.bench("POST", "providers", {
    name: "Unused",
    address: world.at("Lantern"),
    profile: "chat-completions",
    credential: { kind: "none" },
    models,
  });
  await page.goto(`${world.address}/providers`);
  await page.getByRole("button", { name: /^Unused/ }).click();
  const ask = page.getByRole("button", { name: "delete Unused" });
  await ask.click();
  const question = page.getByRole("dialog", { name: "Delete Unused?" });
  await expect(question).toContainText("Its key, its models and its prices go with it");
  await page.keyboard.press("Escape");
  await expect(question).toBeHidden();
  await expect(ask).toBeFocused();
  await ask.click();
  await page.getByRole("button", { name: "Delete it for good" }).click();
  await expect(page.getByRole("button", { name: /^Unused/ })).toHaveCount(0);

  await world.makeApp("Uses Reedbed");
  await page.reload();
  await page.getByRole("button", { name: /^Reedbed/ }).click();
  await expect(page.getByText(/\d+ apps? uses? it/)).toBeVisible();
  await expect(page.getByRole("button", { name: "delete Reedbed" })).toHaveCount(0);
});
