import { buildOf, expect, fillValue, test } from "./fixtures";

const question = "How many places are left on the 9:40 boat?";

test("from an app to an answer with a tool that does not exist yet, answered by hand, in ten acts", async ({
  page,
  world,
}) => {
  await world.wire();
  const slug = await world.makeApp("By hand", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  // 1 to 5: the tool
  await build.station("Model").click();
  const tools = page.getByRole("region", { name: "Tools" });
  await expect(tools).toContainText("May ask for no tool.");
  await tools.getByRole("button", { name: "add a tool" }).click();
  await tools.getByRole("textbox", { name: "Name of the tool" }).fill("places_left");
  await tools.getByRole("textbox", { name: "What the tool does, for the model" }).first().fill("Places left on a boat");
  await page.keyboard.press("Enter");
  await expect(tools.getByRole("button", { name: "places_left" })).toBeVisible();
  // 6: a question that calls for it (two acts: its words, and Enter)
  await build.say(question);
  const call = build.calls(1, "places_left", "waits for an answer by hand");
  // 8: the answer
  await call.getByRole("textbox", { name: "Answer of places_left" }).fill("3 bicycles, 2 animals");
  await page.keyboard.press("Enter");
  await expect(build.reply(1, "complete")).toContainText("3 bicycles, 2 animals");
  await expect(build.calls(1, "places_left", "answered")).toContainText(/→ 3 bicycles, 2 animals.*by hand, \d/s);
  // a call by hand that could not be done is told as that, and a reload in between loses nothing
  await build.say(`And now: ${question}`);
  const second = build.calls(2, "places_left", "waits for an answer by hand");
  await expect(second).toBeVisible();
  await page.reload();
  await second.getByRole("textbox", { name: "Answer of places_left" }).fill("the desk is closed");
  await second.getByRole("checkbox", { name: "it could not be done" }).check();
  await second.getByRole("button", { name: "Answer", exact: true }).click();
  await expect(build.reply(2, "complete")).toContainText("the desk is closed");
  await expect(build.calls(2, "places_left", "failed")).toContainText(/by hand, \d/);
  // and stop ends one that waits
  await build.say(`Once more: ${question}`);
  await expect(build.calls(3, "places_left", "waits for an answer by hand")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(build.reply(3, "stopped")).toBeVisible();
  await expect(build.calls(3, "places_left", "was stopped")).toBeVisible();
});

test("a tool is changed in its sentence and as JSON, and what can't be read yet leaves it as it was", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Changed", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Model").click();
  const tools = page.getByRole("region", { name: "Tools" });
  await tools.getByRole("button", { name: "add a tool" }).click();
  await tools.getByRole("textbox", { name: "Name of the tool" }).fill("1 boat");
  await expect(tools.getByRole("alert")).toContainText("Models take letters");
  await tools.getByRole("textbox", { name: "Name of the tool" }).fill("places_left");
  await tools.getByRole("textbox", { name: "What the tool does, for the model" }).first().fill("Places left on a boat");
  await page.keyboard.press("Enter");
  await tools.getByRole("combobox", { name: "How the tool is answered" }).click();
  await page.getByText("always with the same", { exact: true }).last().click();
  await fillValue(tools.getByRole("textbox", { name: "What the tool always answers" }), "7 bicycles");
  await fillValue(tools.getByRole("spinbutton", { name: "Rounds of calls at most" }), "2");
  await tools.getByRole("button", { name: "its arguments, and all of it as JSON" }).click();
  const editor = tools.getByRole("textbox", { name: "Tool places_left as JSON" });
  await editor.click();
  await page.keyboard.press("Control+A");
  const draftTools = async () =>
    (
      await world.bench<{ draft: { tools?: { parameters: object; asks?: true }[]; rounds?: number } }>(
        "GET",
        `apps/${slug}`,
      )
    ).draft;
  const whole = {
    name: "places_left",
    description: "Places left on a boat",
    parameters: { type: "object", properties: { boat: { type: "string" } } },
    answer: { by: "text", text: "7 bicycles" },
  };
  await page.keyboard.insertText(JSON.stringify({ ...whole, parameters: { type: "boat" } }));
  await expect(tools.getByRole("status")).toContainText("the tool stays as it was");
  await page.keyboard.press("Control+A");
  await page.keyboard.insertText(JSON.stringify(whole));
  await expect(tools.getByRole("status")).toHaveCount(0);
  await expect.poll(async () => (await draftTools()).tools?.[0]?.parameters).toEqual(whole.parameters);
  expect((await draftTools()).rounds).toBe(2);
  await build.say(question);
  await expect(build.reply(1, "complete")).toContainText("7 bicycles");
  await tools.getByRole("button", { name: "delete it" }).click();
  await expect(tools).toContainText("May ask for no tool.");
});

test("operations of an OpenAPI document become tools by choosing, each with the variable of its credential", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Operations", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.station("Model").click();
  const tools = page.getByRole("region", { name: "Tools" });
  await tools.getByRole("button", { name: "from an OpenAPI document" }).click();
  const document = tools.getByRole("textbox", { name: "OpenAPI document" });
  await document.fill("swagger: '2.0'");
  await expect(tools.getByRole("alert")).toContainText("it is of version 2.0");
  const paths = Array.from(
    { length: 300 },
    (_, at) => `  /island/${at}:\n    get:\n      operationId: island${at}\n      summary: What is on island ${at}\n`,
  );
  await document.fill(
    `openapi: 3.1.0\ninfo: {title: Ferry}\nservers: [{url: "http://127.0.0.1:9/api"}]\nsecurity: [{quay: []}]\ncomponents:\n  securitySchemes:\n    quay: {type: http, scheme: bearer}\npaths:\n${paths.join("")}`,
  );
  await tools.getByRole("textbox", { name: "Find an operation" }).fill("island 217");
  await tools.getByRole("checkbox", { name: /island217/ }).check();
  await tools.getByRole("textbox", { name: "Find an operation" }).fill("island 4");
  await tools.getByRole("checkbox", { name: /island4 / }).check();
  await tools.getByRole("button", { name: "Add 2 tools" }).click();
  await expect(tools.getByRole("button", { name: "island217" })).toBeVisible();
  const read = async () =>
    (await world.bench<{ draft: { tools?: { name: string; answer: object }[] } }>("GET", `apps/${slug}`)).draft.tools ??
    [];
  await expect.poll(async () => (await read()).map(({ name }) => name)).toEqual(["island4", "island217"]);
  expect((await read())[1]?.answer).toEqual({
    by: "address",
    method: "GET",
    url: "http://127.0.0.1:9/api/island/217",
    headers: [{ name: "Authorization", value: "Bearer $QUAY" }],
  });
  // where the credential comes from is said once for all of them
  const secret = tools.getByRole("list", { name: "Secrets of tools" }).getByRole("listitem");
  await expect(secret).toHaveText(/^\$QUAY is not given to this app yet/);
  await expect(page.getByRole("region", { name: "Before this app can answer" })).toContainText("$QUAY");
  await secret.getByRole("button", { name: "type it once" }).click();
  await secret.getByRole("textbox", { name: "The secret QUAY, typed once" }).fill("harbour-pass");
  await secret.getByRole("button", { name: "seal it" }).click();
  await expect(secret).toHaveText(/^\$QUAY is a secret that is sealed here/);
  await expect(page.getByRole("region", { name: "Before this app can answer" })).toHaveCount(0);
  await page.reload();
  await build.station("Model").click();
  await expect(secret).toHaveText(/sealed here/);
  await expect(page.getByText("harbour-pass")).toHaveCount(0);
  await secret.getByRole("button", { name: "take it away" }).click();
  await expect(secret).toHaveText(/is not given to this app yet/);
  await secret.getByRole("button", { name: "from the variable QUAY" }).click();
  await expect(secret).toHaveText(/is a secret from.*\(not set\)/);
  await expect(secret.getByRole("textbox", { name: "Environment variable of the secret QUAY" })).toHaveValue("QUAY");
});

test("a tool that asks first is allowed in the bench, and declined on the page, where nothing else of tools is shown", async ({
  page,
  world,
}) => {
  const book = {
    name: "book_places",
    description: "Books places on a boat",
    parameters: { type: "object", properties: {} },
    answer: { by: "text" as const, text: "Booked as number 17." },
    asks: true as const,
  };
  const slug = await world.makeApp("Asks", { model: "reed-deep", tools: [book] });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Book places on a boat, please.");
  await build.calls(1, "book_places", "waits until it is allowed").getByRole("button", { name: "Allow it" }).click();
  await expect(build.reply(1, "complete")).toContainText("Booked as number 17.");

  await page.goto(`${world.address}/talk/${slug}`);
  await page.getByRole("textbox").fill("Book places on a boat, please.");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("alert").filter({ hasText: "May this be done: book places?" })).toBeVisible();
  await page.getByRole("button", { name: "No", exact: true }).click();
  await expect(page.getByText("book places: was not done, as you said.")).toBeVisible();
  await expect(page.locator('[data-role="app"][data-state="complete"]')).not.toContainText("Booked as number 17");
  await page.reload();
  await expect(page.getByText("book places: was not done, as you said.")).toBeVisible();
  await page.getByRole("textbox").fill("Then do book places on a boat.");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "Yes, do it" }).click();
  await expect(page.getByText("book places: was done.")).toBeVisible();
  await expect(page.locator('[data-role="app"]').last()).toContainText("Booked as number 17");
});
