import type { ServerResponse } from "node:http";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { usualSummaryPrompt } from "@/core/context/sum-up";
import type { Content } from "@/core/revision/revision";
import { accessSchema } from "@/core/serving/access";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { wholeAnswer } from "../answers/replies";
import { deleteApp } from "../apps/app";
import type { StoredApp } from "../apps/app-store";
import { deleteBranch, setClear, setPin } from "../conversations/branches";
import type { StoredConversation } from "../conversations/conversation-store";
import { deleteConversation } from "../conversations/delete";
import { estimateSayingAgain } from "../jobs/say-again";
import { ask, bench } from "../replies/ask";
import { testFolder } from "../test-folder";
import { bodyOf, plainWiring, TestProvider } from "../test-provider";
import { correctSummary, sumUpAnew } from "./summaries";

interface Sent {
  model: string;
  messages: { role: string; content: string }[];
}

let { home, remove } = testFolder();
remove();
let server: TestProvider;
let slug = "";
let app: StoredApp;
/** What was asked for summaries, and for replies. */
let summing: Sent[] = [];
let replying: Sent[] = [];
/** Answers a call for a summary. */
let sumUp: (response: ServerResponse, count: number) => void;

const memory = { kind: "summary", turns: 2 } as const;

function content(change: Partial<Content> = {}): Content {
  return {
    prompt: "Be brief.",
    variables: {},
    provider: slug,
    model: "m",
    settings: { maxOutput: 50 },
    memory,
    ...change,
  };
}

function say(response: ServerResponse, text: string, finish = "stop") {
  response.writeHead(200, { "content-type": "text/event-stream" });
  response.write(`data: ${JSON.stringify({ choices: [{ delta: { content: text }, finish_reason: finish }] })}\n\n`);
  response.end('data: {"choices":[],"usage":{"prompt_tokens":30,"completion_tokens":4}}\n\ndata: [DONE]\n\n');
}

beforeEach(async () => {
  ({ home, remove } = testFolder());
  [summing, replying] = [[], []];
  sumUp = (response, count) => say(response, `Summary ${count}.`);
  server = await TestProvider.start(async (request, response) => {
    const sent = JSON.parse(await bodyOf(request)) as Sent;
    if (/^(?:Sum up|Shorten)/.test(sent.messages[0]?.content ?? "")) {
      summing.push(sent);
      sumUp(response, summing.length);
    } else {
      replying.push(sent);
      say(response, `Answer ${replying.length}.`);
    }
  });
  const provider = home.providers.add(
    {
      ...plainWiring,
      address: server.address,
      profileText: JSON.stringify(chatCompletions),
      credential: { kind: "none" },
    },
    1,
  );
  const price = { input: 1_000_000, output: 2_000_000, currency: "EUR" };
  home.providers.putModels(provider, [
    { name: "m", window: 4_000, price },
    { name: "small", window: 400, price },
  ]);
  slug = home.providers.byId(provider)?.slug ?? "";
  app = home.apps.make("A", content(), 1);
});
afterEach(() => {
  remove();
  server.stop();
});

/** Keeps the next call for a summary waiting, until the test answers it. */
function held(): { response: ServerResponse | undefined } {
  const late: { response: ServerResponse | undefined } = { response: undefined };
  sumUp = (response) => {
    late.response = response;
  };
  return late;
}

/** Says something, and waits for the reply. */
async function said(message: string, where: { conversation?: string; after?: string } = {}) {
  const head = ask(home, app, bench, { message, ...where });
  await wholeAnswer(home, head.reply);
  return head;
}

/** So many turns in a new conversation. @returns its id, and the replies */
async function talk(turns: number): Promise<{ conversation: string; replies: string[]; messages: string[] }> {
  const replies: string[] = [];
  const messages: string[] = [];
  let conversation: string | undefined;
  for (let turn = 1; turn <= turns; turn += 1) {
    const head = await said(`Question ${turn}?`, { conversation });
    conversation = head.conversation;
    replies.push(head.reply);
    messages.push(head.message);
    await settled(conversation);
  }
  return { conversation: conversation ?? "", replies, messages };
}

/** Waits until no summary is made any more. */
async function settled(conversation: string) {
  await expect.poll(() => home.summarising.standing(conversation)?.state).not.toBe("making");
}

const end = (conversation: string) => home.conversations.byId(conversation)?.tip ?? "";
const kept = (conversation: string) => home.summaries.ofLine(conversation, end(conversation));
const whole = (sent: Sent | undefined) => sent?.messages.map((each) => each.content).join("\n") ?? "";

function edit(change: Partial<Content>) {
  app = home.apps.setDraft(app, content(change));
}

describe("a running summary", () => {
  it("is made once four older turns are not covered, and goes along from the next message on", async () => {
    const { conversation, replies } = await talk(6);
    expect(summing).toHaveLength(1);
    expect(summing[0]?.messages).toHaveLength(1);
    expect(summing[0]?.messages[0]?.content).toBe(
      `${usualSummaryPrompt}\n\nWhat was said before:\n\n${[1, 2, 3, 4].map((turn) => `Visitor: Question ${turn}?\n\nApp: Answer ${turn}.`).join("\n\n")}`,
    );
    expect(kept(conversation)).toMatchObject([
      { turn: 4, message: replies[3], text: "Summary 1.", maker: { provider: "Test", model: "m" }, isCut: false },
    ]);
    const { reply } = await said("Question 7?", { conversation });
    expect(replying.at(-1)?.messages[0]?.content).toBe(
      "Be brief.\n\nWhat was said before that, in short:\n\nSummary 1.",
    );
    expect(
      replying
        .at(-1)
        ?.messages.slice(1)
        .map(({ content: text }) => text),
    ).toEqual(["Question 5?", "Answer 5.", "Question 6?", "Answer 6.", "Question 7?"]);
    expect(home.dispatches.ofReply(reply)[0]?.ledger?.entries[1]).toMatchObject({
      part: "summary",
      turn: 4,
      carried: true,
    });
  });

  it("goes on from the one before, which stays for other lines", async () => {
    const { conversation } = await talk(10);
    expect(summing).toHaveLength(2);
    expect(summing[1]?.messages[0]?.content).toContain(
      "in short:\n\nSummary 1.\n\nWhat was said before:\n\nVisitor: Question 5?",
    );
    expect(kept(conversation).map(({ turn, text }) => [turn, text])).toEqual([
      [8, "Summary 2."],
      [4, "Summary 1."],
    ]);
  });

  it("is paid for with its conversation, its app and its day", async () => {
    const { conversation } = await talk(6);
    const each = 30 + 4 * 2;
    expect(kept(conversation)[0]?.price).toEqual({ amount: each, currency: "EUR" });
    expect(home.conversations.byId(conversation)?.price).toBe(each * 7 * 1_000_000);
    expect(home.spend.since(app.id, 0)).toBe(each * 7 * 1_000_000);
  });

  it("is reckoned with before a conversation is said again: as many as it would make, and what they cost", async () => {
    const { conversation } = await talk(10);
    const of = home.conversations.byId(conversation) as StoredConversation;
    const withSummaries = estimateSayingAgain(home, app, of, undefined);
    expect(withSummaries.summaries).toMatchObject({ count: summing.length });
    edit({ memory: { kind: "last-turns", turns: 2 } });
    const without = estimateSayingAgain(home, app, of, undefined);
    expect(without.summaries).toBeNull();
    const { input, output, price } = withSummaries.summaries ?? { input: 0, output: 0, price: 0 };
    expect(price).toBeCloseTo(input + 2 * output);
    expect(withSummaries.price).toBeCloseTo(withSummaries.input + 2 * withSummaries.output + price);
    // each message from the seventh on would carry one
    expect(withSummaries.input).toBeGreaterThan(without.input);
  });

  it("is made before that where room is so short that turns would be left out", async () => {
    edit({ model: "small", settings: { maxOutput: 250 }, memory: { kind: "summary", turns: 1 } });
    const { conversation } = await talk(1);
    const long = "One two three four five six seven eight nine ten eleven twelve. ".repeat(3);
    await said(long, { conversation });
    await said(long, { conversation });
    await expect.poll(() => kept(conversation).length).toBeGreaterThan(0);
    expect(kept(conversation)[0]?.turn).toBeLessThan(4);
  });

  it("of much takes as many calls as the model that makes it has room for", async () => {
    edit({ memory: { kind: "last-turns", turns: 1 } });
    const { conversation } = await talk(30);
    edit({ memory: { ...memory, by: { provider: slug, model: "small" } } });
    await said("Last?", { conversation });
    await settled(conversation);
    expect(summing.length).toBeGreaterThan(1);
    expect(summing.every(({ model }) => model === "small")).toBe(true);
    expect(kept(conversation)[0]?.turn).toBe(29);
    const told = summing.flatMap((each) =>
      [...whole(each).matchAll(/Question (\d+)\?/g)].map(([, turn]) => Number(turn)),
    );
    expect(told).toEqual(Array.from({ length: 29 }, (_, at) => at + 1));
  });

  it("leaves out what is pinned, and does not fit any more once that changes", async () => {
    const { conversation, messages } = await talk(3);
    setPin(home, messages[1] ?? "", true);
    for (const turn of [4, 5, 6, 7]) await said(`Question ${turn}?`, { conversation });
    await settled(conversation);
    expect(whole(summing[0])).not.toContain("Question 2?");
    await said("Question 8?", { conversation });
    expect(whole(replying.at(-1))).toContain("Question 2?");
    expect(whole(replying.at(-1))).toContain("Summary 1.");
    setPin(home, messages[1] ?? "", false);
    await said("Question 9?", { conversation });
    expect(whole(replying.at(-1))).not.toContain("Summary");
    expect(whole(replying.at(-1))).toContain("Question 2?");
  });

  it("of each model covers what that model answered, where memory is apart", async () => {
    edit({ memory: { ...memory, apart: true } });
    const { conversation } = await talk(6);
    expect(kept(conversation)[0]).toMatchObject({ by: { provider: "Test", model: "m" }, turn: 4 });
    edit({ memory: { ...memory, apart: true }, model: "small" });
    await said("Other?", { conversation });
    expect(whole(replying.at(-1))).not.toMatch(/Summary|Question/);
  });

  it("covers nothing above a clear", async () => {
    const { conversation, replies } = await talk(6);
    setClear(home, replies[2] ?? "", true);
    await said("Question 7?", { conversation });
    expect(whole(replying.at(-1))).not.toMatch(/Summary|Question 3/);
    for (const turn of [8, 9]) await said(`Question ${turn}?`, { conversation });
    await settled(conversation);
    expect(whole(summing.at(-1))).not.toContain("Question 3?");
    expect(kept(conversation)[0]).toMatchObject({ turn: 7, clear: replies[2] });
  });
});

describe("a summary that does not come as it should", () => {
  it("and fails leaves the next message what there is room for, which says so, and is tried again after it", async () => {
    sumUp = (response) => response.writeHead(500).end("{}");
    const { conversation } = await talk(6);
    expect(home.summarising.standing(conversation)).toMatchObject({ state: "failed", problem: { kind: "overloaded" } });
    sumUp = (response, count) => say(response, `Summary ${count}.`);
    const { reply } = await said("Question 7?", { conversation });
    expect(whole(replying.at(-1))).toContain("Question 1?");
    expect(home.dispatches.ofReply(reply)[0]?.ledger?.entries[1]).toMatchObject({
      part: "summary",
      carried: false,
      reason: { kind: "no-summary" },
    });
    await expect.poll(() => kept(conversation).map(({ turn }) => turn)).toEqual([5]);
    expect(home.summarising.standing(conversation)).toBeNull();
  });

  it("and is empty, or declined, is none", async () => {
    sumUp = (response) => say(response, "  ");
    const { conversation } = await talk(6);
    expect(home.summarising.standing(conversation)).toMatchObject({ state: "failed", problem: { kind: "empty" } });
    expect(kept(conversation)).toEqual([]);
  });

  it("and comes late is not waited for: the next message goes without it, the one after that with it", async () => {
    const late = held();
    const { conversation } = await talk(5);
    await said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    expect(home.summarising.standing(conversation)).toEqual({ state: "making", turn: 4 });
    await said("Question 7?", { conversation });
    expect(whole(replying.at(-1))).toContain("Question 1?");
    say(late.response as ServerResponse, "Late summary.");
    await settled(conversation);
    await said("Question 8?", { conversation });
    expect(whole(replying.at(-1))).toContain("Late summary.");
    expect(whole(replying.at(-1))).not.toContain("Question 1?");
    expect(summing).toHaveLength(1);
  });

  it("and is asked for twice is made once", async () => {
    const late = held();
    const { conversation } = await talk(5);
    await said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    const stored = home.conversations.byId(conversation);
    if (!stored) return expect.unreachable();
    expect(() => sumUpAnew(home, app, stored)).toThrow(/being made/);
    await said("Question 7?", { conversation });
    await said("Question 8?", { conversation });
    say(late.response as ServerResponse, "Summary 1.");
    await settled(conversation);
    expect(summing).toHaveLength(1);
    expect(kept(conversation)).toHaveLength(1);
  });

  it("and is of a line that branches meanwhile goes along where the line holds what it covers, and nowhere else", async () => {
    const late = held();
    const { conversation, replies } = await talk(5);
    await said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    // another line from the middle, and one from below what is covered
    await said("Other 3?", { conversation, after: replies[1] });
    say(late.response as ServerResponse, "Summary 1.");
    await settled(conversation);
    await said("Other 4?", { conversation });
    expect(whole(replying.at(-1))).toContain("Other 3?");
    expect(whole(replying.at(-1))).not.toContain("Summary");
    await said("Again 6?", { conversation, after: replies[4] });
    await said("Again 7?", { conversation });
    expect(whole(replying.at(-1))).toContain("Summary 1.");
    expect(whole(replying.at(-1))).not.toMatch(/Question [1-4]\?/);
  });

  it("and is stopped keeps nothing, and says nothing", async () => {
    sumUp = () => {};
    const { conversation } = await talk(5);
    await said("Question 6?", { conversation });
    await expect.poll(() => summing.length).toBe(1);
    await home.summarising.stop(conversation);
    await expect.poll(() => home.summarising.standing(conversation)).toBeNull();
    expect(kept(conversation)).toEqual([]);
    expect(home.reservations.of(app.id)).toBe(0);
  });

  it("and is of a line that is cleared while it is made in several calls is not gone on with", async () => {
    edit({ memory: { kind: "last-turns", turns: 1 } });
    const { conversation, replies } = await talk(30);
    const late = held();
    edit({ memory: { ...memory, by: { provider: slug, model: "small" } } });
    await said("Last?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    setClear(home, replies[1] ?? "", true);
    sumUp = (response) => say(response, "Another.");
    say(late.response as ServerResponse, "First.");
    await settled(conversation);
    expect(kept(conversation).map(({ text, clear }) => [text, clear])).toEqual([["First.", null]]);
    await said("Now?", { conversation });
    expect(whole(replying.at(-1))).not.toMatch(/First\.|Question 1\?/);
  });

  it("and is of what is deleted meanwhile is stopped first: a branch, an app", async () => {
    sumUp = () => {};
    const { conversation, replies } = await talk(5);
    await said("Other 5?", { conversation, after: replies[3] });
    await said("Question 6?", { conversation });
    await expect.poll(() => summing.length).toBe(1);
    const line = home.messages.line(end(conversation));
    await deleteBranch(home, line[8]?.id ?? "");
    await expect.poll(() => home.summarising.standing(conversation)).toBeNull();
    for (const turn of [6, 7]) await said(`Question ${turn}?`, { conversation });
    await expect.poll(() => summing.length).toBe(2);
    await deleteApp(home, app);
    await expect.poll(() => home.summarising.standing(conversation)).toBeNull();
    expect(home.reservations.of(app.id)).toBe(0);
  });

  it("and has no money left for it in the day is refused, and nothing goes out", async () => {
    const access = accessSchema.parse({});
    // six replies have room; what a summary can cost has not
    const day = 400;
    app = home.apps.setAccess(app, { ...access, limits: { ...access.limits, day } });
    edit({ settings: { maxOutput: 20 } });
    const { conversation } = await talk(6);
    expect(summing).toHaveLength(0);
    expect(home.summarising.standing(conversation)).toMatchObject({ state: "failed", problem: { kind: "over-limit" } });
    expect(home.reservations.of(app.id)).toBe(0);
  });
});

describe("a summary that is there", () => {
  it("is put right by hand, and stays so with another prompt", async () => {
    const { conversation } = await talk(6);
    const [summary] = kept(conversation);
    correctSummary(home, summary?.id ?? "", "The visitor is Marit.");
    edit({ memory: { ...memory, prompt: "Shorten this." } });
    await said("Question 7?", { conversation });
    expect(whole(replying.at(-1))).toContain("The visitor is Marit.");
    await settled(conversation);
    expect(summing).toHaveLength(1);
  });

  it("that is put right while the next one is made from it is in that one", async () => {
    const { conversation } = await talk(6);
    const [first] = kept(conversation);
    const late = held();
    for (const turn of [7, 8, 9, 10]) await said(`Question ${turn}?`, { conversation });
    await expect.poll(() => late.response).toBeDefined();
    expect(whole(summing[1])).toContain("Summary 1.");
    const closed = new Promise((resolve) => late.response?.on("close", resolve));
    sumUp = (response) => say(response, "She is Marit, and asks about ten things.");
    correctSummary(home, first?.id ?? "", "The visitor is Marit.");
    await closed;
    await settled(conversation);
    expect(summing).toHaveLength(3);
    expect(whole(summing[2])).toContain("The visitor is Marit.");
    expect(whole(summing[2])).not.toContain("Summary 1.");
    expect(kept(conversation).map(({ turn, text }) => [turn, text])).toEqual([
      [8, "She is Marit, and asks about ten things."],
      [4, "The visitor is Marit."],
    ]);
  });

  it("is stale with another prompt: it goes along until it is made anew, from the messages", async () => {
    const { conversation } = await talk(6);
    edit({ memory: { ...memory, prompt: "Shorten this." } });
    await said("Question 7?", { conversation });
    expect(whole(replying.at(-1))).toContain("Summary 1.");
    await expect.poll(() => kept(conversation)[0]?.text).toBe("Summary 2.");
    expect(whole(summing[1])).toMatch(/^Shorten this\.\n\nWhat was said before:\n\nVisitor: Question 1\?/);
  });

  it("is made anew when that is asked for", async () => {
    const { conversation } = await talk(6);
    const stored = home.conversations.byId(conversation);
    if (!stored) return expect.unreachable();
    sumUpAnew(home, app, stored);
    await expect.poll(() => kept(conversation)[0]?.text).toBe("Summary 2.");
    expect(whole(summing[1])).toContain("Question 1?");
    const other = await talk(1);
    expect(() => sumUpAnew(home, app, home.conversations.byId(other.conversation) as never)).toThrow(
      /Nothing is older/,
    );
  });

  it("goes with what it covers, and what was said to the model for it too", async () => {
    const { conversation, replies } = await talk(3);
    const { reply } = await said("Other 3?", { conversation, after: replies[1] });
    for (const turn of [4, 5, 6]) await said(`Question ${turn}?`, { conversation });
    await settled(conversation);
    expect(kept(conversation)).toHaveLength(1);
    const line = home.messages.message(reply)?.parent ?? "";
    await deleteBranch(home, line);
    const rows = () =>
      ["summaries", "makings WHERE purpose = 'summary'"].map((what) =>
        home.database.prepare(`SELECT count(*) FROM ${what}`).pluck().get(),
      );
    await expect.poll(rows).toEqual([0, 0]);
  });

  it("of a conversation that is deleted while it is made is not kept", async () => {
    sumUp = () => {};
    const { conversation } = await talk(5);
    await said("Question 6?", { conversation });
    await expect.poll(() => summing.length).toBe(1);
    await deleteConversation(home, conversation, "restorable");
    await expect.poll(() => home.summarising.standing(conversation)).toBeNull();
    expect(home.database.prepare("SELECT count(*) FROM summaries").pluck().get()).toBe(0);
  });
});
