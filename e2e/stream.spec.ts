import { buildOf, expect, test } from "./fixtures";

test("a stream that ends for good is said, begun anew, and what was missed meanwhile is read", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Heard");
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Hello");
  await expect(build.reply(1, "complete")).toBeVisible();
  const conversation = new URL(page.url()).searchParams.get("conversation");
  const notConnected = page.getByText("not connected");
  await expect(notConnected).toHaveCount(0);

  // the browser comes back by itself after a server that was away; it gives up after an answer that is no stream
  const stream = "**/api/bench/stream";
  await page.route(stream, (route) => route.fulfill({ status: 503, body: "" }));
  await world.killWeb();
  await expect(notConnected).toBeVisible();
  const refused = page.waitForResponse(stream);
  await world.startWeb();
  expect((await refused).status()).toBe(503);
  await world.bench("POST", `apps/${slug}/replies`, { message: "When do boats go to Brindle?", conversation });
  await expect(notConnected).toBeVisible();

  await page.unroute(stream);
  await expect(notConnected).toHaveCount(0);
  await expect(build.reply(2, "complete")).toContainText("7:20");
  await build.say("And to Tansy Holm?");
  await expect(build.reply(3, "complete")).toContainText("8:10");
});
