import { png } from "@/server/test/picture";
import { buildOf, expect, test, type World } from "./fixtures";

const bytes = png(400, 240);

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
