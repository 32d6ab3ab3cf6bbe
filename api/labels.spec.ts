import { SignJWT } from "jose";
import type { Source } from "@/contract/sources";
import type { Content } from "@/core/revision/content";
import { expect, noLimits, test } from "../e2e/fixtures";
import { addFile } from "./source-file";

test("a visitor is answered from the documents whose labels a site signed for, and from no other, by whatever way", async ({
  world,
}) => {
  await world.pace("instant");
  const slug = await world.makeApp("Labels", { model: "reed-deep" }, { callers: "machine", limits: noLimits });
  const open = await addFile(world, slug, "rules.md", "# Rules\n\nA bicycle costs €2.00 each way.\n");
  const rota = await addFile(
    world,
    slug,
    "rota.md",
    "# Rota\n\nThe skipper on the night ferry is Orla of Tansy Holm.\n",
  );
  await world.editDraft(slug, {
    sources: { documents: [{ source: open.id }, { source: rota.id, labels: ["crew"] }] },
  });
  const areCut = async () =>
    (await world.bench<{ sources: Source[] }>("GET", `apps/${slug}/sources`)).sources.every(
      ({ passages }) => passages !== null,
    );
  await expect.poll(areCut, { timeout: 30_000 }).toBe(true);
  const { draft } = await world.bench<{ draft: Content }>("GET", `apps/${slug}`);
  await world.bench("PUT", `apps/${slug}/live`, { content: draft });
  const { text: secret } = await world.bench<{ text: string }>("POST", `apps/${slug}/tokens`, {
    kind: "site",
    name: "Site",
  });
  const identity = async (sub: string, labels?: string[]) =>
    `Bearer ${await new SignJWT({ sub, labels, exp: Math.floor(Date.now() / 1000) + 600 })
      .setProtectedHeader({ alg: "HS256" })
      .sign(new TextEncoder().encode(secret))}`;

  const asked = { message: "Who is the skipper on the night ferry?" };
  const ask = async (headers: Record<string, string>, path = "replies", body: object = asked) => {
    const response = await fetch(`${world.address}/api/apps/${slug}/${path}`, {
      method: "POST",
      headers: { "content-type": "application/json", ...headers },
      body: JSON.stringify(body),
    });
    const text = await response.text();
    expect(response.status, text).toBe(200);
    return text;
  };
  const sent = async () => JSON.stringify((await world.calls()).at(-1));

  expect(await ask({ authorization: await identity("orla", ["crew", "deck"]) })).toContain("Orla of Tansy Holm");
  const others: Record<string, string>[] = [
    { authorization: await identity("orla") },
    { authorization: await identity("ivo", ["deck"]) },
    { "finch-visitor": "orla" },
    {},
  ];
  for (const headers of others) {
    await world.forgetCalls();
    expect(await ask(headers)).not.toContain("Tansy Holm");
    expect(await sent()).not.toContain("Tansy Holm");
    expect(await ask({ ...headers, accept: "text/event-stream" })).not.toContain("Tansy Holm");
    const common = { messages: [{ role: "user", content: asked.message }] };
    expect(await ask(headers, "v1/chat/completions", common)).not.toContain("Tansy Holm");
  }

  // the bench finds all, but in what a visitor may read
  const sentBy = async (conversation?: string) => {
    await world.forgetCalls();
    await world.bench("POST", `apps/${slug}/replies`, { ...asked, conversation });
    await expect.poll(async () => (await world.calls()).length).toBe(1);
    return sent();
  };
  expect(await sentBy()).toContain("Orla of Tansy Holm");
  const visitors = JSON.parse(await ask({ authorization: await identity("ivo") })) as { conversation: string };
  expect(await sentBy(visitors.conversation)).not.toContain("Tansy Holm");

  // what the next message would carry is told by the same labels
  await world.bench("PUT", `apps/${slug}/live`, {
    content: { ...draft, sources: { documents: [{ source: rota.id, labels: ["crew"], whole: {} }] } },
  });
  const { conversation } = JSON.parse(await ask({ authorization: await identity("orla", ["crew"]) }));
  const reach = async (labels: string[]) => {
    const headers = { authorization: await identity("orla", labels) };
    const told = await fetch(`${world.address}/api/apps/${slug}/conversations/${conversation}/reach`, { headers });
    return ((await told.json()) as { tokens: number }).tokens;
  };
  expect(await reach(["crew"])).toBeGreaterThan((await reach(["deck"])) + 10);
});
