import { buildOf, expect, test, World } from "./fixtures";

/** What a provider answers to one message, as it came. */
async function ask(world: World, id: string, model: string, message = "Hello"): Promise<string> {
  const body = { model, message, stream: false };
  const { answer } = await world.bench<{ answer: { text: string; problem: { detail: string } | null } }>(
    "POST",
    `providers/${id}/try`,
    body,
  );
  return answer.text || (answer.problem?.detail ?? "");
}

const price = { input: 0, output: 0, currency: "EUR" };

interface Listed {
  providers: { id: string; name: string; models: { name: string; version: { version: string } | null }[] }[];
}

test.describe("manners that some APIs have", () => {
  let world: World;
  test.beforeAll(async () => {
    world = await World.make();
    await world.startStandIn();
    await world.startWeb({ FINCH_COMMANDS: "on" });
    await world.pace("instant");
  });
  test.afterAll(() => world.stop());

  /** Wires a stand-in and has it offer a further model. */
  const withModel = async (name: Parameters<World["wire"]>[0], model: string) => {
    const id = (await world.wire(name)) as string;
    const { providers } = await world.bench<Listed>("GET", "providers");
    const known = providers.find((each) => each.id === id)?.models.map((each) => each.name) ?? [];
    const models = [...new Set([...known, model])].map((each) => ({ name: each, window: 4_000, price }));
    await world.bench("PATCH", `providers/${id}`, { models });
    return id;
  };

  test("a model that wants signed requests answers once a command signs them", async () => {
    const id = await withModel("Tidegate", "tide-sealed");
    expect(await ask(world, id, "tide-sealed")).toContain("tide-seal is missing or broken");
    await world.bench("PATCH", `providers/${id}`, { signing: "node examples/sign-tidegate.mjs" });
    expect(await ask(world, id, "tide-sealed")).toContain('"turned":"ebb"');
    await world.bench("PATCH", `providers/${id}`, { signing: "node -e 'process.exit(3)'" });
    await expect(ask(world, id, "tide-sealed")).rejects.toThrow(
      "The command that signs calls of Tidegate ended with 3",
    );
    await world.bench("PATCH", `providers/${id}`, { signing: null });
  });

  test("from trial to production a value is changed, and nothing else; the model says as what it answers", async () => {
    const id = await withModel("Bellhouse", "bell-plain");
    const story = "Write a long story of a crossing.";
    await world.bench("PATCH", `providers/${id}`, { values: { house: "trial" } });
    const short = await ask(world, id, "bell-plain", story);
    await world.bench("PATCH", `providers/${id}`, { values: { house: "production" } });
    const long = await ask(world, id, "bell-plain", story);
    expect(short).toContain("cut short");
    expect(long.length).toBeGreaterThan(short.length * 2);
    const { providers } = await world.bench<Listed>("GET", "providers");
    expect(providers.find((each) => each.id === id)?.models[0]?.version).toMatchObject({
      version: "bell-plain of production",
      before: "bell-plain of trial",
    });
  });

  test("a model is asked for in the list, looked at, and granted some calls later", async ({ page }) => {
    const id = await withModel("Saltpan", "pan-sealed");
    expect(await ask(world, id, "pan-sealed")).toContain("pan-sealed is for those who ask");
    await page.goto(`${world.address}/providers`);
    const list = page.getByRole("navigation", { name: "Providers" });
    await list.getByRole("button", { name: /^Saltpan/ }).click();
    await expect(page.getByRole("row", { name: /^pan-sealed/ })).toContainText("not switched on there");
    await page.getByRole("button", { name: "switch it on" }).click();
    await expect.poll(() => ask(world, id, "pan-sealed")).toContain('"said"');
    await page.reload();
    await list.getByRole("button", { name: /^Saltpan/ }).click();
    await expect(page.getByText("not switched on there")).toHaveCount(0);
  });

  test("a local model is fetched from the list, and answers then", async ({ page }) => {
    const id = await withModel("Lantern", "lantern-far");
    expect(await ask(world, id, "lantern-far")).toContain("not here yet");
    await page.goto(`${world.address}/providers`);
    const list = page.getByRole("navigation", { name: "Providers" });
    await list.getByRole("button", { name: /^Lantern/ }).click();
    await page.getByRole("button", { name: "switch it on" }).click();
    await expect(page.getByText("not switched on there")).toHaveCount(0);
    expect(await ask(world, id, "lantern-far")).toContain('"out":true');
  });

  test("a probe finds from where on a local model cuts the front in silence", async ({ page }) => {
    await withModel("Lantern", "lantern-dim");
    await page.goto(`${world.address}/providers`);
    const list = page.getByRole("navigation", { name: "Providers" });
    await list.getByRole("button", { name: /^Lantern/ }).click();
    await page.getByRole("combobox", { name: "Model to ask and to probe with" }).click();
    await page.getByTitle("lantern-dim", { exact: true }).last().click();
    await page.getByRole("button", { name: "Probe it" }).click();
    await expect(page.getByRole("region", { name: "Probe" })).toContainText("cuts the front and does not say so", {
      timeout: 30_000,
    });
  });

  test("links that an answer brings stand in its dispatch", async ({ page }) => {
    const id = await withModel("Tidegate", "tide-wide");
    const build = buildOf(page, world);
    await build.open(await world.makeApp("Linked", { provider: id, model: "tide-wide" }));
    await build.say("What does a ticket cost? Name your sources.");
    await build
      .reply(1, "complete")
      .getByRole("button", { name: /^Dispatch/ })
      .click();
    await expect(page.getByRole("region", { name: "Dispatch" })).toContainText("Fares and tickets");
  });
});
