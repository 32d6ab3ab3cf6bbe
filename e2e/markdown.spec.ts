import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { heavyBodies, hostileBodies } from "./bodies/markdown";
import { buildOf, expect, test, type World } from "./fixtures";

const bodies = [...hostileBodies, ...heavyBodies];

let server: Server;
let conversations: Map<string, string>;
let slug = "";

/** A provider that says whatever body it is asked for by its number. */
async function wireBodies(world: World): Promise<string> {
  server = createServer(async (request, response) => {
    if (request.method !== "POST") {
      response.writeHead(404).end();
      return;
    }
    let asked = "";
    for await (const part of request) asked += part;
    const { messages } = JSON.parse(asked) as { messages: { content: string }[] };
    const content = bodies[Number(messages.at(-1)?.content)]?.text ?? "nothing";
    response.writeHead(200, { "content-type": "application/json" });
    response.end(JSON.stringify({ choices: [{ message: { content }, finish_reason: "stop" }] }));
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { id } = await world.bench<{ id: string }>("POST", "providers", {
    name: "Bodies",
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    profile: "chat-completions",
    credential: { kind: "none" },
    models: [{ name: "body", window: 100_000_000, price: { input: 0, output: 0, currency: "EUR" } }],
  });
  return id;
}

test.beforeAll(async ({ world }) => {
  test.setTimeout(300_000);
  slug = await world.makeApp("Bodies", { provider: await wireBodies(world), model: "body", settings: {} });
  conversations = new Map();
  for (const [at, { name }] of bodies.entries()) {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      body: JSON.stringify({ message: String(at) }),
    });
    const { conversation, detail } = (await response.json()) as { conversation?: string; detail?: string };
    if (!conversation) throw new Error(`${name}: ${detail}`);
    conversations.set(name, conversation);
  }
});
test.afterAll(() => server.close());

/** Bodies that are opened one after the other in one page. */
const together = 10;

for (let first = 0; first < bodies.length; first += together) {
  const some = bodies.slice(first, first + together);
  test(`replies that are hostile or heavy open, run nothing and fetch nothing: ${some[0]?.name} to ${some.at(-1)?.name}`, async ({
    page,
    world,
  }) => {
    test.setTimeout(600_000);
    const elsewhere: string[] = [];
    page.on("request", (request) => {
      if (!request.url().startsWith(world.address) && !request.url().startsWith("data:")) elsewhere.push(request.url());
    });
    page.on("pageerror", (error) => elsewhere.push(error.message));
    for (const { name } of some) {
      await buildOf(page, world).open(slug, conversations.get(name));
      await expect(page.getByRole("article", { name: "Turn 1, reply, complete" })).toBeVisible();
      // asked for by a selector, since going through all of the words would itself take long
      await expect(page.locator("article [aria-busy=true]")).toHaveCount(0, { timeout: 180_000 });
      expect([name, await page.evaluate(() => (window as unknown as { __ran?: number }).__ran)]).toEqual([
        name,
        undefined,
      ]);
      await expect(page.getByRole("textbox", { name: "Message" })).toBeEditable();
      await expect(page.getByText("The bench could not show")).toHaveCount(0);
    }
    expect(elsewhere).toEqual([]);
  });
}
