import { randomBytes } from "node:crypto";
import { readdirSync, statSync } from "node:fs";
import { join } from "node:path";
import { PNG } from "pngjs";
import { gifThatTells, jpegThatTells, told } from "@/core/pictures/test/samples";
import { png } from "@/server/test/picture";
import { expectAccessible } from "./axe";
import { buildOf, expect, fillValue, test, type World } from "./fixtures";
import { drop, type Given, paste, pasteData, watchTasks } from "./pasting";

const bytes = png(400, 240);

const noLimits = { visitor: null, address: null, app: null };

interface Kept {
  file: string;
  type: string;
  width: number;
  height: number;
}

async function kept(world: World, slug: string, of: Uint8Array = bytes, visitor = "ada"): Promise<Kept> {
  const response = await fetch(`${world.address}/api/apps/${slug}/files`, {
    method: "POST",
    headers: { "content-type": "image/png", "finch-visitor": visitor },
    body: new Uint8Array(of),
  });
  expect(response.status).toBe(201);
  return (await response.json()) as Kept;
}

test("a picture that is handed in over HTTP is sent, answered, shown at the bench, and given back to its caller alone", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Seen", { model: "reed-deep" });
  const { file, ...size } = await kept(world, slug);
  expect(size).toEqual({ type: "image/png", width: 400, height: 240 });
  expect((await kept(world, slug)).file).toBe(file);
  const ask = (visitor: string, piece = file) =>
    fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": visitor },
      body: JSON.stringify({
        message: [
          { kind: "picture", file: piece },
          { kind: "text", text: "What is it?" },
        ],
      }),
    });
  const answer = (await (await ask("ada")).json()) as { text: string; conversation: string };
  expect(answer.text).toContain("400 by 240 pixels, wider than high");
  expect((await ask("bo")).status).toBe(404);
  const given = (visitor: string) =>
    fetch(`${world.address}/api/apps/${slug}/files/${file}`, { headers: { "finch-visitor": visitor } });
  const own = await given("ada");
  expect([own.headers.get("content-type"), Buffer.from(await own.arrayBuffer()).equals(bytes)]).toEqual([
    "image/png",
    true,
  ]);
  expect(own.headers.get("content-security-policy")).toContain("sandbox");
  expect((await given("bo")).status).toBe(404);
  const line = await fetch(`${world.address}/api/apps/${slug}/conversations/${answer.conversation}`, {
    headers: { "finch-visitor": "ada" },
  });
  const { messages } = (await line.json()) as { messages: { pieces: object[] }[] };
  expect(messages[0]?.pieces[0]).toEqual({ kind: "picture", file, ...size });
  const build = buildOf(page, world);
  await page.goto(`${world.address}/apps/${slug}/build?conversation=${answer.conversation}`);
  const picture = build.sheet.getByRole("img", { name: "400 by 240 pixels" });
  await expect(picture).toBeVisible();
  await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(400);
});

test("a picture is refused by name where a shape has no place for it, and left out where its profile says so", async ({
  world,
}) => {
  const ask = async (slug: string) => {
    const { file } = await kept(world, slug);
    return fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify({
        message: [
          { kind: "picture", file },
          { kind: "text", text: "Hello" },
        ],
      }),
    });
  };
  const bell = await world.makeApp("Bell", { provider: await world.wire("Bellhouse"), model: "bell-plain" });
  const refused = await ask(bell);
  expect([refused.status, (await refused.json()).detail]).toEqual([
    422,
    expect.stringContaining("no place for pictures"),
  ]);
  const lamp = await world.makeApp("Lamp", { provider: await world.wire("Lantern"), model: "lantern-one" });
  const left = await ask(lamp);
  expect([left.status, (await left.json()).detail]).toEqual([200, undefined]);
});

test("what is no picture, and what is too large, is refused with why", async ({ world }) => {
  const slug = await world.makeApp("Judged");
  const send = (body: Uint8Array) =>
    fetch(`${world.address}/api/apps/${slug}/files`, { method: "POST", body: new Uint8Array(body) });
  const script = await send(Buffer.from("<script>alert(1)</script>"));
  expect([script.status, (await script.json()).detail]).toEqual([
    400,
    expect.stringContaining("no picture that is taken"),
  ]);
  const large = await send(Buffer.concat([png(2, 2), Buffer.alloc(21 * 1024 * 1024)]));
  expect([large.status, (await large.json()).kind]).toEqual([413, "too-large"]);
});

const shapes = [
  ["Reedbed", "reed-deep"],
  ["Saltpan", "pan-clear"],
  ["Tidegate", "tide-wide"],
] as const;
const teal: Given = { name: "quay.png", type: "image/png", bytes };
const photo: Given = { name: "boat.jpg", type: "image/jpeg", bytes: jpegThatTells(300, 200, [163, 25, 46]) };

for (const [standIn, model] of shapes)
  test(`a picture that is pasted into Build, and on the page, is seen through the shape of ${standIn}`, async ({
    page,
    world,
  }) => {
    const slug = await world.makeApp(
      `Pasted ${standIn}`,
      { provider: await world.wire(standIn), model, settings: { maxOutput: 300 } },
      { limits: noLimits, pictures: { from: ["page", "calls"] } },
    );
    const build = buildOf(page, world);
    await build.open(slug);
    await paste(build.message, teal, photo);
    const held = page.getByRole("list", { name: "Pictures that go along" });
    await expect(held.getByRole("listitem")).toHaveCount(2);
    // kept across a reload, as the words are
    await build.message.fill("What is it?");
    await page.reload();
    await expect(held.getByRole("listitem")).toHaveCount(2);
    await expect(build.message).toHaveValue("What is it?");
    await page.getByRole("button", { name: /^Leave out picture 2/ }).click();
    await build.message.press("Enter");
    await expect(build.reply(1, "complete")).toContainText("400 by 240 pixels, wider than high, all teal");
    await expect(held).toHaveCount(0);
    const first = build.sheet.getByRole("img", { name: "400 by 240 pixels" });
    await expect.poll(() => first.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(400);

    await page.goto(`${world.address}/talk/${slug}`);
    const field = page.getByRole("textbox");
    await expect(page.getByLabel("Add a picture")).toBeVisible();
    await paste(field, photo);
    await expect(page.getByRole("button", { name: "Leave out picture 1" })).toBeVisible();
    await field.fill("And that?");
    await field.press("Enter");
    await expect(page.getByRole("article").last()).toContainText("300 by 200 pixels, wider than high, all red");
    const shown = page.getByRole("article").first().getByRole("img", { name: "Picture of 300 by 200 pixels" });
    await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(300);
    await page.reload();
    await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(300);
  });

test("a picture of 40 megapixels is made smaller beside the page, a turned one is put upright, and what is none is named", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Large", { model: "reed-deep" });
  const build = buildOf(page, world);
  await build.open(slug);
  const held = page.getByRole("list", { name: "Pictures that go along" });
  const large = await page.evaluateHandle(async () => {
    const canvas = new OffscreenCanvas(8_000, 5_000);
    const context = canvas.getContext("2d");
    if (!context) throw new Error("nothing is drawn");
    context.fillStyle = "#1f5c6b";
    context.fillRect(0, 0, 8_000, 5_000);
    const data = new DataTransfer();
    data.items.add(new File([await canvas.convertToBlob({ type: "image/png" })], "harbour.png", { type: "image/png" }));
    return data;
  });
  const longest = await watchTasks(page);
  await pasteData(build.message, large);
  await expect(held.getByRole("listitem")).toHaveCount(1);
  await expect(
    page.getByText("harbour.png: it was made smaller, from 8,000 × 5,000 to 2,048 × 1,280 pixels."),
  ).toBeVisible();
  expect(await longest()).toBeLessThan(200);
  await drop(
    page.getByRole("region", { name: "Conversation" }),
    { name: "upright.jpg", type: "image/jpeg", bytes: jpegThatTells(60, 20, undefined, 6) },
    { name: "waves.gif", type: "image/gif", bytes: gifThatTells(30, 30, 3) },
    { name: "script.png", type: "image/png", bytes: Buffer.from("<script>alert(1)</script>") },
    { name: "song.mp3", type: "audio/mpeg", bytes: Buffer.concat([Buffer.from("ID3"), Buffer.alloc(40)]) },
  );
  await expect(held.getByRole("img", { name: "20 by 60 pixels" })).toBeVisible();
  await expect(page.getByText("waves.gif: it is animated, and its first frame is sent.")).toBeVisible();
  await expect(page.getByText("script.png: This is no picture that is taken")).toBeVisible();
  await expect(page.getByText("song.mp3: This is sound: apps take text and pictures")).toBeVisible();
  await expect(held.getByRole("listitem")).toHaveCount(3);
  await expectAccessible(page, "Build with pictures");
});

test("a model that sees no pictures is refused before anything is sent, and those that do are named", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp(
    "Blind",
    { model: "reed-swift" },
    { limits: noLimits, pictures: { from: ["page", "calls"] } },
  );
  await world.forgetCalls();
  const build = buildOf(page, world);
  await build.open(slug);
  await paste(build.message, teal);
  await expect(page.getByText("This model sees no pictures, and pictures would be sent.")).toBeVisible();
  await expect(page.getByText(/Choose .*reed-deep on Reedbed/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Send", exact: true })).toBeDisabled();
  const { file } = await kept(world, slug);
  const refused = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ada" },
    body: JSON.stringify({ message: [{ kind: "picture", file }] }),
  });
  expect([refused.status, await refused.json()]).toEqual([
    422,
    expect.objectContaining({ kind: "no-place", advice: expect.stringContaining("reed-deep on Reedbed") }),
  ]);
  expect(await world.calls()).toEqual([]);
  await page.goto(`${world.address}/talk/${slug}`);
  await expect(page.getByRole("textbox")).toBeVisible();
  await expect(page.getByLabel("Add a picture")).toHaveCount(0);
});

test("what a picture counts at a model is said on Providers, which fits at 1024 pixels, and is what the next message costs", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Counted", { model: "reed-deep" });
  await page.setViewportSize({ width: 1024, height: 768 });
  await page.goto(`${world.address}/providers?open=reedbed`);
  await page.getByRole("button", { name: "Further prices of reed-deep" }).click();
  await page.getByRole("button", { name: "Say what a picture counts for at reed-deep" }).click();
  const each = page.getByRole("spinbutton", { name: "Each picture, tokens at reed-deep" });
  await fillValue(each, "5000");
  await expect(each).toHaveValue("5000");
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(1024);
  const table = page.getByRole("table").filter({ hasText: "Abilities" });
  expect(await table.evaluate((element) => element.getBoundingClientRect().right)).toBeLessThanOrEqual(1024);
  await page.setViewportSize({ width: 1280, height: 800 });
  const build = buildOf(page, world);
  await build.open(slug);
  await paste(build.message, teal);
  await expect(page.getByText(/about 5,1\d\d tokens in/)).toBeVisible();
  await page.goto(`${world.address}/providers?open=reedbed`);
  await page.getByRole("button", { name: "Further prices of reed-deep" }).click();
  await page.getByRole("button", { name: "Learn what a picture counts for at reed-deep" }).click();
  await expect(page.getByText("is learned from what the provider reports")).toBeVisible();
});

test("what is told about a picture is nowhere once it is kept; of which callers, how many, how large is held to", async ({
  world,
}) => {
  const slug = await world.makeApp(
    "Limits",
    { model: "reed-deep" },
    { limits: noLimits, pictures: { from: ["calls"], most: 2, largest: 30_000 } },
  );
  const { file } = await kept(world, slug, photo.bytes);
  const given = await fetch(`${world.address}/api/apps/${slug}/files/${file}`, { headers: { "finch-visitor": "ada" } });
  const clean = Buffer.from(await given.arrayBuffer());
  expect([clean.includes(told), clean.includes("Exif"), Buffer.from(photo.bytes).includes(told)]).toEqual([
    false,
    false,
    true,
  ]);
  const send = async (body: Uint8Array) => {
    const response = await fetch(`${world.address}/api/apps/${slug}/files`, {
      method: "POST",
      body: new Uint8Array(body),
    });
    return [response.status, ((await response.json()) as { detail: string }).detail];
  };
  expect(await send(Buffer.alloc(40_000, 1))).toEqual([413, expect.any(String)]);
  expect(await send(png(8_000, 5_000).subarray(0, 20_000))).toEqual([400, expect.stringContaining("not whole")]);
  expect(await send(gifThatTells(10, 10, 2))).toEqual([400, expect.stringContaining("animated")]);
  const ask = async (message: object[]) => {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify({ message }),
    });
    return (await response.json()) as { kind?: string; detail?: string; text?: string };
  };
  const picture = { kind: "picture", file };
  expect(await ask([picture, picture, picture])).toMatchObject({
    kind: "bad-request",
    detail: expect.stringContaining("2 pictures"),
  });
  const linked = { kind: "linked", address: "https://pictures.saltmarsh.example/boat.png" };
  expect((await ask([linked, { kind: "text", text: "What is it?" }])).text).toContain(
    "stands at https://pictures.saltmarsh.example/boat.png",
  );
  const sent = (await world.calls()).at(-1);
  expect(JSON.stringify(sent)).toContain("boat");
  expect(await ask([{ kind: "linked", address: "http://127.0.0.1/x.png" }])).toMatchObject({ kind: "bad-request" });
  await world.bench("PUT", `apps/${slug}/access`, { access: { limits: noLimits, pictures: { from: [] } } });
  expect(await ask([picture])).toMatchObject({ kind: "forbidden" });
});

/** Bytes of all files below a folder. */
function bytesIn(folder: string): number {
  return readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .reduce((sum, entry) => sum + statSync(join(entry.parentPath, entry.name)).size, 0);
}

test("twenty turns with pictures grow what is kept by marks, and not by their bytes", async ({ world }) => {
  const slug = await world.makeApp("Twenty", {
    model: "reed-deep",
    memory: { kind: "everything" },
    settings: { maxOutput: 60 },
  });
  // noise, which nothing packs
  const image = new PNG({ width: 600, height: 400 });
  randomBytes(image.data.length).copy(image.data);
  const noise = PNG.sync.write(image);
  expect(noise.length).toBeGreaterThan(900_000);
  const { file } = await kept(world, slug, noise);
  let conversation: string | undefined;
  const ask = async () => {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ada" },
      body: JSON.stringify({
        message: [
          { kind: "picture", file },
          { kind: "text", text: "And now?" },
        ],
        conversation,
      }),
    });
    const answer = (await response.json()) as { conversation: string; detail?: string };
    expect(answer.detail).toBeUndefined();
    ({ conversation } = answer);
  };
  await ask();
  const before = [bytesIn(join(world.folder, "files")), bytesIn(world.folder)] as const;
  for (let turn = 2; turn <= 20; turn++) await ask();
  const { messages } = await world.bench<{ messages: { id: string; role: string }[] }>(
    "GET",
    `conversations/${conversation}`,
  );
  const last = messages.at(-1);
  const { dispatches } = await world.bench<{ dispatches: { request: { body: string } }[] }>(
    "GET",
    `replies/${last?.id}/dispatches`,
  );
  const body = dispatches[0]?.request.body ?? "";
  expect(body.match(/•file [0-9a-f]{64}•/g)).toHaveLength(20);
  expect(body.length).toBeLessThan(20_000);
  // nineteen further turns, which sent it 209 times: 200 MB
  expect(bytesIn(join(world.folder, "files"))).toBe(before[0]);
  expect(bytesIn(world.folder) - before[1]).toBeLessThan(8_000_000);
});

test("a picture that a model makes is a file of the reply: in Build, on the page, to its caller alone, and told of at the next turn", async ({
  page,
  world,
}) => {
  const slug = await world.makeApp("Drawn", {
    provider: await world.wire("Tidegate"),
    model: "tide-wide",
    settings: { maxOutput: 200 },
    memory: { kind: "everything" },
  });
  const build = buildOf(page, world);
  await build.open(slug);
  await build.say("Draw me a yellow boat");
  await expect(build.reply(1, "complete")).toContainText("Here is a yellow boat on the water.");
  const drawn = build.reply(1, "complete").getByRole("img", { name: "320 by 200 pixels" });
  await expect.poll(() => drawn.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(320);
  await build.say("Thank you");
  await expect(build.reply(2, "complete")).toBeVisible();
  await page.reload();
  await expect(drawn).toBeVisible();

  await page.goto(`${world.address}/talk/${slug}`);
  await page.getByRole("textbox").fill("Please draw a blue boat");
  await page.keyboard.press("Enter");
  const shown = page.getByRole("img", { name: "Picture of 320 by 200 pixels" });
  await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(320);
  await page.reload();
  await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(320);

  const ask = (accept: string) =>
    fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { "finch-visitor": "ada", accept },
      body: JSON.stringify({ message: "Draw a green boat" }),
    });
  const whole = (await (await ask("application/json")).json()) as { pictures: Kept[] };
  expect(whole.pictures).toEqual([
    expect.objectContaining({ type: "image/png", width: 320, height: 200, isMade: true }),
  ]);
  const given = (visitor: string) =>
    fetch(`${world.address}/api/apps/${slug}/files/${whole.pictures[0]?.file}`, {
      headers: { "finch-visitor": visitor },
    });
  expect([(await given("ada")).status, (await given("bo")).status]).toEqual([200, 404]);
  const lines = (await (await ask("application/x-ndjson")).text()).trim().split("\n");
  const events = lines.map((line) => JSON.parse(line) as { event: string; data: Kept });
  expect(events.find(({ event }) => event === "picture")?.data.file).toBe(whole.pictures[0]?.file);
});
