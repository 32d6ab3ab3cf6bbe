import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { OwnDocument } from "@/contract/documents";
import type { Content } from "@/core/revision/content";
import { expect, noLimits, test, World } from "../e2e/fixtures";
import { VectorProvider } from "./vector-provider";

type Caller = Record<string, string>;

const lease = "# Lease\n\nThe mooring of the Teal is berth Zanderholm, let until October to Ottoline Quillfeather.\n";
const marker = "Zanderholm";
const question = "Which berth is the mooring of the Teal?";
const documents = { from: ["calls", "page"] as const, addresses: "any" as const };

const named = (visitor: string): Caller => ({ "finch-visitor": visitor });

async function makeDesk(world: World, name: string, content: Partial<Content> = {}, more: object = {}) {
  await world.pace("instant");
  const access = { callers: "machine", limits: noLimits, documents: { ...documents, ...more } };
  return world.makeApp(name, { model: "reed-deep", ...content }, access);
}

function call(world: World, slug: string, path: string, caller: Caller, init: RequestInit = {}): Promise<Response> {
  return fetch(`${world.address}/api/apps/${slug}/${path}`, { ...init, headers: { ...init.headers, ...caller } });
}

function handIn(world: World, slug: string, caller: Caller, name: string, body: string): Promise<Response> {
  return call(world, slug, `documents?name=${name}`, caller, {
    method: "POST",
    body,
    headers: { "content-type": "application/octet-stream" },
  });
}

async function own(world: World, slug: string, caller: Caller): Promise<OwnDocument[]> {
  const response = await call(world, slug, "documents", caller);
  return ((await response.json()) as { documents: OwnDocument[] }).documents;
}

async function untilReady(world: World, slug: string, caller: Caller): Promise<OwnDocument[]> {
  const states = async () => (await own(world, slug, caller)).map(({ state }) => state);
  await expect.poll(states, { timeout: 30_000 }).not.toContain("reading");
  return own(world, slug, caller);
}

/** Forgets a document, and waits until some words are gone from every byte: at once, or where other tests keep it busy a little later. */
async function forget(world: World, slug: string, caller: Caller, id: string, words: string[]): Promise<void> {
  const { status } = await call(world, slug, `documents/${id}`, caller, { method: "DELETE" });
  expect([204, 202]).toContain(status);
  const left = () => words.filter((word) => world.stands(word));
  if (status === 204) expect(left()).toEqual([]);
  else await expect.poll(left, { timeout: 60_000 }).toEqual([]);
}

/** Asks by each way that there is, and gives all that came. */
async function askedByAll(world: World, slug: string, caller: Caller): Promise<string> {
  const post = async (path: string, body: object, headers: Caller = {}) => {
    const response = await call(world, slug, path, caller, {
      method: "POST",
      body: JSON.stringify(body),
      headers: { "content-type": "application/json", ...headers },
    });
    const text = await response.text();
    expect(response.status, text).toBeLessThan(300);
    return text;
  };
  const message = { message: question };
  const common = { messages: [{ role: "user", content: question }] };
  const held = { messages: [{ role: "visitor", text: question }] };
  return [
    await post("replies", message),
    await post("replies", held),
    await post("replies", { ...held, store: true }),
    await post("replies", message, { accept: "text/event-stream" }),
    await post("replies", message, { accept: "application/x-ndjson" }),
    await post("v1/chat/completions", common),
    await post("v1/chat/completions", { ...common, stream: true }),
    await (await call(world, slug, "conversations", caller)).text(),
    await (await call(world, slug, "documents", caller)).text(),
  ].join("\n");
}

test("a visitor is answered from a document of its own by every call, and nobody else is, until it is gone from every byte", async ({
  world,
}) => {
  const slug = await makeDesk(world, "Own");
  const ann = named("ann");
  const handed = await handIn(world, slug, ann, "lease-of-ottoline.md", lease);
  expect(handed.status).toBe(201);
  const [document] = await untilReady(world, slug, ann);
  expect(document).toMatchObject({ title: "Lease of ottoline", state: "ready", size: lease.length, conversations: 0 });
  const id = document?.document as string;

  const others: Caller[] = [named("ivo"), {}];
  const answers = await askedByAll(world, slug, ann);
  expect(answers.match(new RegExp(marker, "g"))?.length).toBeGreaterThanOrEqual(7);
  expect((await world.calls()).filter((sent) => JSON.stringify(sent).includes(marker))).toHaveLength(7);
  await world.forgetCalls();
  for (const caller of others) {
    expect(await askedByAll(world, slug, caller)).not.toContain(marker);
    expect(await own(world, slug, caller)).toEqual([]);
    const deleted = await call(world, slug, `documents/${id}`, caller, { method: "DELETE" });
    expect(deleted.status).toBe(404);
  }
  expect(JSON.stringify(await world.calls())).not.toContain(marker);
  // nor is the bench, but in what that visitor said
  const found = await world.bench<{ found: unknown[] }>("GET", `apps/${slug}/found?question=${question}`);
  expect(found.found).toEqual([]);
  expect(JSON.stringify(await world.bench("GET", `apps/${slug}/sources`))).not.toContain(id);
  const taken = await fetch(`${world.address}/api/bench/sources/${id}`, { method: "DELETE" });
  expect(taken.status).toBe(404);
  const { draft, hash } = await world.bench<{ draft: Content; hash: string }>("GET", `apps/${slug}`);
  const borrowed = await fetch(`${world.address}/api/bench/apps/${slug}/draft`, {
    method: "PUT",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ content: { ...draft, sources: { documents: [{ source: id }] } }, hash }),
  });
  expect(borrowed.status).toBe(400);

  expect((await own(world, slug, ann))[0]?.conversations).toBe(7);
  expect(world.stands(marker)).toBe(true);
  await forget(world, slug, ann, id, [marker, marker.toLowerCase(), "Quillfeather", "quillfeather", "ottoline"]);
  expect(await own(world, slug, ann)).toEqual([]);
  expect(await askedByAll(world, slug, ann)).not.toContain(marker);
});

test("a visitor who is forgotten leaves nothing of its documents, nor of their vectors; what another has, too, stays that one's", async () => {
  // what is counted is in no other test's
  const [makers, world] = [await VectorProvider.start(), await World.make()];
  try {
    await world.start();
    const { slug: provider } = await world.bench<{ slug: string }>("POST", "providers", {
      name: "Looms of visitors",
      address: makers.address,
      profile: "chat-completions",
      credential: { kind: "none" },
      models: [{ name: "weft", window: 2_000, price: { input: 0, output: 0, currency: "EUR" }, can: ["vectors"] }],
    });
    const slug = await makeDesk(world, "Forgotten", {
      sources: { documents: [], meaning: { provider, model: "weft" } },
    });
    const [ann, ivo] = [named("ann"), named("ivo")];
    await handIn(world, slug, ann, "lease.md", lease);
    await handIn(world, slug, ann, "pets.md", "# Pets\n\nThe cat Grimalkin Oystercatcher travels in a basket.\n");
    await handIn(world, slug, ivo, "mine.md", lease);
    await untilReady(world, slug, ann);
    await untilReady(world, slug, ivo);
    const rows = (table: string) => {
      const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
      const count = database.prepare(`SELECT count(*) FROM ${table}`).pluck().get();
      database.close();
      return count;
    };
    await expect.poll(() => rows("vectors"), { timeout: 30_000 }).toBe(2);
    expect(await askedByAll(world, slug, ann)).toContain(marker);

    const me = await call(world, slug, "visitors/me", ann, { method: "DELETE" });
    expect(me.status).toBe(204);
    expect(world.stands("Grimalkin")).toBe(false);
    expect(world.stands("grimalkin")).toBe(false);
    expect([rows("documents"), rows("passages"), rows("vectors"), rows("leaving_documents")]).toEqual([1, 1, 1, 0]);
    expect(await askedByAll(world, slug, ivo)).toContain(marker);

    await call(world, slug, "visitors/me", ivo, { method: "DELETE" });
    expect([rows("documents"), rows("document_parts"), rows("passages"), rows("vectors")]).toEqual([0, 0, 0, 0]);
    for (const word of [marker, marker.toLowerCase()]) expect(world.stands(word), word).toBe(false);
  } finally {
    await Promise.all([world.stop(), makers.stop()]);
  }
});

test("documents are taken within limits, and refused in words", async ({ world }) => {
  const slug = await makeDesk(world, "Limits", {}, { most: 2, largest: 200, addresses: "none" });
  const ann = named("ann");
  const refusal = async (response: Promise<Response>) => {
    const answer = await response;
    return `${answer.status} ${((await answer.json()) as { detail: string }).detail}`;
  };
  expect(await refusal(handIn(world, slug, ann, "long.md", "a ".repeat(200)))).toMatch(/^413 .*200 bytes/);
  expect(await refusal(handIn(world, slug, ann, "song.ogg", "OggS\0\0\0\0"))).toMatch(
    /^400 The document is .*can't be read/,
  );
  const address = (url: string) =>
    call(world, slug, "documents/addresses", ann, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ url }),
    });
  expect(await refusal(address("https://ferry.example/rules"))).toMatch(/^403 .*no addresses/);
  expect((await handIn(world, slug, ann, "one.md", "# One\n\nBerth one.")).status).toBe(201);
  expect((await handIn(world, slug, ann, "two.md", "# Two\n\nBerth two.")).status).toBe(201);
  expect(await refusal(handIn(world, slug, ann, "three.md", "# Three"))).toMatch(/^409 A visitor may have 2 documents/);
  // the newer one of a name takes the place of the older
  expect((await handIn(world, slug, ann, "two.md", "# Two\n\nBerth twelve.")).status).toBe(201);
  expect(await own(world, slug, ann)).toHaveLength(2);
  expect((await handIn(world, slug, named("ivo"), "three.md", "# Three")).status).toBe(201);
  // what is none that can be read says so in its own place
  const broken = await handIn(world, slug, named("eve"), "rules.pdf", "%PDF-1.7\nnothing");
  expect(await broken.json()).toMatchObject({ title: "Rules", state: "reading" });
  expect(await untilReady(world, slug, named("eve"))).toMatchObject([
    { state: "failed", problem: { detail: expect.stringMatching(/^The document /) } },
  ]);

  const access = { callers: "machine", documents: { from: ["page"] } };
  await world.bench("PUT", `apps/${slug}/access`, { access });
  expect(await refusal(handIn(world, slug, ann, "two.md", "# Two"))).toMatch(/^403 Callers may hand in no documents/);
});

test("an address is fetched once for a visitor, and none of this machine where that is not allowed", async ({
  world,
}) => {
  const url = `${world.address}/talk/module.js`;
  const open = await makeDesk(world, "Addresses");
  const closed = await makeDesk(world, "Public addresses", {}, { addresses: "public" });
  const address = (slug: string) =>
    call(world, slug, "documents/addresses", named("ann"), {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ url }),
    });
  const taken = await address(open);
  expect(taken.status, await taken.clone().text()).toBe(201);
  expect((await untilReady(world, open, named("ann")))[0]?.state).toBe("ready");
  expect((await address(closed)).status).toBeGreaterThanOrEqual(400);
  expect(await own(world, closed, named("ann"))).toEqual([]);
});

test("a document that is forgotten while it is read, and while a reply is made from it, leaves nothing behind", async ({
  world,
}) => {
  const slug = await makeDesk(world, "Meanwhile");
  const ann = named("ann");
  const long = `# Log\n\n${Array.from({ length: 20_000 }, (_, at) => `Entry ${at}: the Petrelwick passed buoy ${at}.`).join("\n\n")}`;
  const { document } = (await (await handIn(world, slug, ann, "log.md", long)).json()) as OwnDocument;
  await forget(world, slug, ann, document, ["Petrelwick"]);
  const { jobs } = await world.bench<{ jobs: { app: string; state: string }[] }>("GET", "jobs");
  const states = jobs.filter(({ app }) => app === slug).map(({ state }) => state);
  expect(states.length).toBeGreaterThan(0);
  expect(states).not.toContain("failed");

  await handIn(world, slug, ann, "lease.md", lease);
  const [again] = await untilReady(world, slug, ann);
  await world.pace(20);
  const asked = await call(world, slug, "replies", ann, {
    method: "POST",
    headers: { "content-type": "application/json", prefer: "respond-async" },
    body: JSON.stringify({ message: question }),
  });
  expect(asked.status).toBe(202);
  await expect.poll(async () => JSON.stringify(await world.calls())).toContain(marker);
  await forget(world, slug, ann, again?.document ?? "", [marker]);
  const { reply } = (await asked.json()) as { reply: string };
  expect((await call(world, slug, `replies/${reply}`, ann)).status).toBe(404);
  await world.pace("instant");
});

test("forgetting says by 202 that something is not gone from every byte yet, and it is once nobody reads it", async ({
  world,
}) => {
  const slug = await makeDesk(world, "Held up");
  const ann = named("ann");
  await handIn(world, slug, ann, "lease.md", lease);
  const [document] = await untilReady(world, slug, ann);
  // another program reads what stands in the write-ahead log
  const other = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
  other.exec("BEGIN");
  other.prepare("SELECT count(*) FROM visitor_documents").get();
  const forgotten = await call(world, slug, `documents/${document?.document}`, ann, { method: "DELETE" });
  expect(forgotten.status).toBe(202);
  expect(await own(world, slug, ann)).toEqual([]);
  other.exec("COMMIT");
  other.close();
  await expect.poll(() => world.stands(marker), { timeout: 30_000 }).toBe(false);
});

test("a document whose visitor asks nothing for 30 days is forgotten by itself, and what a kill leaves is erased after it", async () => {
  const world = await World.make();
  try {
    await world.start();
    const slug = await makeDesk(world, "Unused");
    const [ann, ivo] = [named("ann"), named("ivo")];
    await handIn(world, slug, ann, "lease.md", lease);
    await handIn(world, slug, ivo, "pets.md", "# Pets\n\nThe cat Grimalkin travels in a basket.\n");
    await untilReady(world, slug, ann);
    await untilReady(world, slug, ivo);
    const asked = await call(world, slug, "replies", ann, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ message: question }),
    });
    const { conversation } = (await asked.json()) as { conversation: string };
    const exported = await fetch(`${world.address}/api/bench/apps/${slug}/export?as=jsonl&ids=${conversation}`);
    const taken = await exported.text();
    await world.killWeb();
    const database = new Sqlite(join(world.folder, "finch.sqlite"));
    const long = Date.now() - 31 * 24 * 60 * 60 * 1000;
    database
      .prepare(
        "UPDATE visitor_documents SET used_at = ? WHERE visitor_id = (SELECT id FROM visitors WHERE name = 'ann')",
      )
      .run(long);
    database.close();
    await world.startWeb();
    await expect.poll(() => world.stands(marker), { timeout: 30_000 }).toBe(false);
    await expect.poll(() => world.stands(marker.toLowerCase()), { timeout: 30_000 }).toBe(false);
    expect(await own(world, slug, ann)).toEqual([]);
    expect(await own(world, slug, ivo)).toHaveLength(1);
    expect(taken).toContain(marker);

    // a process that is killed when it has only taken note of what is to be gone
    await world.killWeb();
    const again = new Sqlite(join(world.folder, "finch.sqlite"));
    again.pragma("foreign_keys = ON");
    again.prepare("DELETE FROM visitor_documents").run();
    again.prepare("INSERT OR REPLACE INTO erasing (id, since) VALUES (1, 1)").run();
    again.close();
    expect(world.stands("Grimalkin")).toBe(true);
    await world.startWeb();
    await expect.poll(() => world.stands("Grimalkin"), { timeout: 30_000 }).toBe(false);
    await expect.poll(() => world.stands("grimalkin"), { timeout: 30_000 }).toBe(false);
  } finally {
    await world.stop();
  }
});
