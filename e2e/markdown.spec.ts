import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import type { Page } from "@playwright/test";
import { type Body, heavyBodies, hostileBodies } from "@/ui/shared/markdown/test/bodies";
import { buildOf, expect, test, type World } from "./fixtures";

/**
 * Of what weighs most, one of each kind: all others are read by the same rules, which the renderer's own tests try. The last
 * hostile ones are large as well.
 */
const heaviest = [
  ...hostileBodies.filter(({ text }) => text.length > 9_000),
  ...heavyBodies.filter(({ name }) =>
    [
      "20,000 short paragraphs",
      "one word of a million characters",
      "3,000 footnotes",
      "a fence of 8,000 lines",
      "500 fences",
      "a table of 4,000 rows",
      "a table whose row has 100,000 cells",
      "10,000 links",
      "two megabytes of everything",
    ].includes(name),
  ),
];
const hostile = hostileBodies.filter((body) => !heaviest.includes(body));
const bodies = [...hostile, ...heaviest];

let server: Server;
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
  slug = await world.makeApp("Bodies", { provider: await wireBodies(world), model: "body", settings: {} });
});
test.afterAll(() => server.close());

/** Has a body said, in a new conversation or at the end of one; gives the conversation. */
async function say(world: World, body: Body, conversation?: string): Promise<string> {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ message: String(bodies.indexOf(body)), conversation }),
  });
  const said = (await response.json()) as { conversation?: string; detail?: string };
  if (!said.conversation) throw new Error(`${body.name}: ${said.detail}`);
  return said.conversation;
}

/** What a page fetches from elsewhere, and what fails in it. */
function watch(page: Page, { address }: World): string[] {
  const seen: string[] = [];
  page.on("request", (request) => {
    if (!request.url().startsWith(address) && !request.url().startsWith("data:")) seen.push(request.url());
  });
  page.on("pageerror", (error) => seen.push(error.message));
  return seen;
}

const ran = (page: Page) => page.evaluate(() => (window as unknown as { __ran?: number }).__ran);

/** Turns that a conversation shows at once. */
const together = 16;

for (let first = 0; first < hostile.length; first += together) {
  const some = hostile.slice(first, first + together);
  test(`replies that are hostile run nothing and fetch nothing: ${some[0]?.name} to ${some.at(-1)?.name}`, async ({
    page,
    world,
  }) => {
    let conversation: string | undefined;
    for (const body of some) conversation = await say(world, body, conversation);
    const seen = watch(page, world);
    await buildOf(page, world).open(slug, conversation);
    for (let turn = some.length; turn > 0; turn--) {
      const reply = page.getByRole("article", { name: `Turn ${turn}, reply, complete` });
      await reply.scrollIntoViewIfNeeded();
      await expect(reply).toBeInViewport();
    }
    expect(await ran(page)).toBeUndefined();
    await expect(page.getByText("The bench could not show")).toHaveCount(0);
    expect(seen).toEqual([]);
  });
}

for (const body of heaviest)
  test(`a reply that is heavy opens, runs nothing and fetches nothing: ${body.name}`, async ({ page, world }) => {
    const conversation = await say(world, body);
    const seen = watch(page, world);
    await buildOf(page, world).open(slug, conversation);
    await expect(page.getByRole("article", { name: "Turn 1, reply, complete" })).toBeVisible();
    // asked for by a selector, since going through all of the words would itself take long
    await expect(page.locator("article [aria-busy=true]")).toHaveCount(0, { timeout: 120_000 });
    await expect(page.getByRole("textbox", { name: "Message" })).toBeEditable();
    await expect(page.getByText("The bench could not show")).toHaveCount(0);
    expect([await ran(page), seen]).toEqual([undefined, []]);
  });
