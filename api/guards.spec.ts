import type { Dispatch } from "@/contract/dispatches";
import type { CaughtPage, Tried } from "@/contract/guards";
import type { Guard } from "@/core/guards/guard";
import { sent, shown } from "@/core/guards/test/parts";
import { expect, test, type World } from "../e2e/fixtures";

const prompt = "You are Quay Desk of Saltmarsh Ferry.";
const emails: Guard["looksFor"] = { kind: "personal", kinds: ["e-mail"] };
const masksEmails = sent(emails, "mask", { name: "Addresses", putsBack: true });
const flour: Guard["looksFor"] = { kind: "words", words: ["flour"] };

interface Answer {
  reply: string;
  conversation: string;
  text: string;
  end: string;
}

async function say(world: World, slug: string, message: string, conversation?: string): Promise<Answer> {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "content-type": "application/json", "finch-visitor": "ann" },
    body: JSON.stringify({ message, conversation }),
  });
  expect(response.status, await response.clone().text()).toBe(200);
  return (await response.json()) as Answer;
}

const dispatchesOf = (world: World, { reply }: Answer) =>
  world.bench<{ dispatches: Dispatch[] }>("GET", `replies/${reply}/dispatches`);
const caughtOf = (world: World, slug: string, query = "") =>
  world.bench<CaughtPage>("GET", `apps/${slug}/caught?${query}`);

for (const [standIn, model] of [
  ["Reedbed", "reed-deep"],
  ["Tidegate", "tide-wide"],
  ["Saltpan", "pan-clear"],
] as const)
  test(`personal data is masked on the wire of ${standIn}, and put back for the reader`, async ({ world }) => {
    await world.pace("instant");
    const provider = await world.wire(standIn);
    const slug = await world.makeApp(`Masked ${standIn}`, { prompt, provider, model, guards: [masksEmails] });
    const first = await say(world, slug, "My e-mail is ann@quay.example");
    const second = await say(world, slug, "What is my e-mail?", first.conversation);
    expect(second.text).toContain("ann@quay.example");
    for (const answer of [first, second]) {
      const { dispatches } = await dispatchesOf(world, answer);
      expect(dispatches[0]?.request.body).toContain("[e-mail #1]");
      const { request, curl, arrivals } = dispatches[0] as Dispatch;
      expect(JSON.stringify([request, curl, arrivals]).includes("ann@quay")).toBe(false);
    }
    // what was already known is counted once: where it was said
    expect((await caughtOf(world, slug)).caught).toMatchObject([
      { guard: "Addresses", on: "sent", does: "mask", what: "e-mail", times: 1, reply: first.reply },
    ]);
  });

test("what a guard refuses is answered without any call, and is not sent with a later message", async ({ world }) => {
  await world.pace("instant");
  const rules = [
    sent({ kind: "words", words: ["moonbeam"] }, "refuse", { name: "No moonbeams", says: "Not about that." }),
    sent({ kind: "length", most: 60 }, "refuse", { name: "Short" }),
  ];
  const slug = await world.makeApp("Refusing", { prompt, model: "reed-deep", guards: rules });
  await world.forgetCalls();
  const refused = await say(world, slug, "Tell me of the MOONBEAM");
  expect(refused).toMatchObject({ text: "Not about that.", end: "refused" });
  const long = await say(
    world,
    slug,
    "Tell me all of it, from the beginning to the end, without leaving anything out",
    refused.conversation,
  );
  expect(long).toMatchObject({ text: "I can't help with that here.", end: "refused" });
  expect(await world.calls()).toHaveLength(0);
  await expect(dispatchesOf(world, refused)).rejects.toThrow(/none was made/);

  await say(world, slug, "What does a bicycle cost?", refused.conversation);
  const bodies = JSON.stringify(await world.calls());
  expect(bodies).toContain("[hidden #1]");
  expect(bodies).not.toMatch(/moonbeam|without leaving/i);

  // a program that speaks the shape that most servers share is told so in its words
  const common = await fetch(`${world.address}/api/apps/${slug}/v1/chat/completions`, {
    method: "POST",
    body: JSON.stringify({ messages: [{ role: "user", content: "A moonbeam?" }] }),
  });
  expect(await common.json()).toMatchObject({
    choices: [{ message: { content: "Not about that." }, finish_reason: "content_filter" }],
  });

  // counted and filtered
  const all = await caughtOf(world, slug);
  expect(all.counts).toMatchObject([
    { guard: "No moonbeams", does: "refuse", what: "words", times: 2, replies: 2 },
    { guard: "Short", does: "refuse", what: "length", times: 1, replies: 1 },
  ]);
  expect((await caughtOf(world, slug, "guard=Short")).caught).toHaveLength(1);
  expect((await caughtOf(world, slug, "does=mask")).caught).toEqual([]);
  expect((await caughtOf(world, slug, `since=${Date.now() + 60_000}`)).counts).toEqual([]);

  // and gone with the conversation
  await fetch(`${world.address}/api/apps/${slug}/conversations/${refused.conversation}`, {
    method: "DELETE",
    headers: { "finch-visitor": "ann" },
  });
  await expect.poll(async () => (await caughtOf(world, slug)).caught.length).toBeLessThanOrEqual(1);
});

test("what is masked in a reply is shown to nobody, by no way of asking, and stands in no file", async ({ world }) => {
  await world.pace("instant");
  const slug = await world.makeApp("Masking", { prompt, model: "reed-deep", guards: [shown(flour)] });
  const whole = await say(world, slug, "A recipe for pancakes, please.");
  expect(whole.text).toContain("[hidden]");
  expect(whole.text).not.toMatch(/flour/i);
  for (const accept of ["text/event-stream", "application/x-ndjson"]) {
    const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
      method: "POST",
      headers: { accept, "content-type": "application/json", "finch-visitor": "ann" },
      body: JSON.stringify({ message: "A recipe for pancakes, please." }),
    });
    const body = await response.text();
    expect(body).not.toMatch(/flour/i);
    expect(body).toContain("hidden");
  }
  const { dispatches } = await dispatchesOf(world, whole);
  expect(dispatches[0]).toMatchObject({ arrivals: [], notes: [{ kind: "guarded" }] });
  // but in the app, where the rule itself names it
  expect(JSON.stringify(dispatches)).not.toMatch(/flour/i);
  const history = await world.bench<object>("GET", `apps/${slug}/conversations`);
  expect(JSON.stringify(history)).not.toMatch(/ flour/i);
  expect(world.stands(" flour")).toBe(false);
});

test("what is held back when a reply is stopped, or the server is killed, is stored nowhere", async ({ world }) => {
  await world.pace(5);
  // holds all back from its first word on
  const everything = shown({ kind: "pattern", pattern: String.raw`\w[^§]*§` }, "refuse", { name: "All of it" });
  const slug = await world.makeApp("Held", { prompt, model: "reed-deep", guards: [everything] });
  const begun = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "content-type": "application/json", prefer: "respond-async", "finch-visitor": "ann" },
    body: JSON.stringify({ message: "A recipe for pancakes, please." }),
  });
  const { reply } = (await begun.json()) as Answer;
  const at = `${world.address}/api/apps/${slug}/replies/${reply}`;
  await expect.poll(async () => (await world.calls()).length).toBeGreaterThan(0);
  await world.killWeb();
  await world.startWeb();
  const left = (await (await fetch(at, { headers: { "finch-visitor": "ann" } })).json()) as {
    state: string;
    text: string;
  };
  expect(left).toMatchObject({ state: "interrupted", text: "" });
  expect(world.stands(" flour")).toBe(false);
});

test("a judge lets a reply through, or holds all of it back", async ({ world }) => {
  await world.pace("instant");
  await world.wire();
  const { providers } = await world.bench<{ providers: { name: string; slug: string }[] }>("GET", "providers");
  const provider = providers.find(({ name }) => name === "Reedbed")?.slug ?? "";
  const rubric = 'names a "price"';
  const judge = shown({ kind: "judge", rubric, by: { provider, model: "reed-deep" } }, "refuse", { name: "Priced" });
  const slug = await world.makeApp("Judged reply", { prompt, model: "reed-deep", guards: [judge] });
  const priced = await say(world, slug, "What does a bicycle cost?");
  expect(priced.text).toContain("€");
  const greeted = await say(world, slug, "Tell me a joke.");
  expect(greeted).toMatchObject({ text: "I can't help with that here.", end: "refused" });
  expect((await caughtOf(world, slug)).caught).toMatchObject([{ what: "judge", does: "refuse", reply: greeted.reply }]);
  const { dispatches } = await dispatchesOf(world, greeted);
  expect(dispatches[0]).toMatchObject({ arrivals: [], notes: [{ kind: "guarded" }] });

  // where nobody can be asked, nothing is shown
  const gone: Guard = { ...judge, looksFor: { kind: "judge", rubric, by: { provider, model: "reed-none" } } };
  const unasked = await world.makeApp("Unjudged", { prompt, model: "reed-deep", guards: [gone] });
  expect(await say(world, unasked, "What does a bicycle cost?")).toMatchObject({ end: "refused" });
});

test("a rule is tried on stored conversations and on texts, without any model", async ({ world }) => {
  await world.pace("instant");
  const slug = await world.makeApp("Tried", { prompt, model: "reed-deep" });
  for (let turn = 0; turn < 3; turn++) await say(world, slug, `I'm ann${turn}@quay.example. When does the boat leave?`);
  await say(world, slug, "When does the boat leave?");
  await world.forgetCalls();
  const tried = async (guard: Guard) => {
    let before: string | null = null;
    const all: Tried = { conversations: 0, messages: 0, hits: 0, found: [], before };
    do {
      const next: Tried = await world.bench<Tried>("POST", `apps/${slug}/guard-tries`, { guard, before });
      all.conversations += next.conversations;
      all.messages += next.messages;
      all.hits += next.hits;
      all.found.push(...next.found);
      before = next.before;
    } while (before !== null);
    return all;
  };
  const found = await tried(masksEmails);
  expect(found).toMatchObject({ conversations: 4, messages: 4, hits: 3 });
  expect(found.found[0]?.places).toEqual([
    { what: "e-mail", before: "I'm ", found: "ann2@quay.example", after: ". When does the boat leave?" },
  ]);
  expect(await tried(shown(emails))).toMatchObject({ messages: 4, hits: 0 });
  const texts = ["ann@quay.example", "ann at quay"];
  expect(await world.bench("POST", `apps/${slug}/guard-texts`, { guard: masksEmails, texts })).toMatchObject({
    texts: [{ places: [{ found: "ann@quay.example" }] }, { places: [] }],
  });
  expect(await world.calls()).toHaveLength(0);
  const judge = shown({ kind: "judge", rubric: "is kind", by: { provider: "reedbed", model: "reed-deep" } }, "refuse");
  await expect(world.bench("POST", `apps/${slug}/guard-tries`, { guard: judge })).rejects.toThrow(
    /judge can't be tried/,
  );
  const bad = shown({ kind: "pattern", pattern: "(a" });
  await expect(world.bench("POST", `apps/${slug}/guard-tries`, { guard: bad })).rejects.toThrow(/unterminated group/);
  const { draft: content, draftHash } = await world.bench<{ draft: object; draftHash: string }>("GET", `apps/${slug}`);
  await expect(
    world.bench("PUT", `apps/${slug}/draft`, { content: { ...content, guards: [bad] }, draftHash }),
  ).rejects.toThrow(/unterminated group/);
});
