import { describe, expect, it } from "vitest";
import { usualSummaryPrompt } from "@/core/context/sum-up";
import type { StoredConversation } from "../conversations/conversation-store";
import { estimateSayingAgain } from "../jobs/say-again";
import { deleteBranch, setClear, setPin } from "../tending/branches";
import { deleteConversation } from "../tending/deleting";
import { correctSummary, sumUpAnew } from "./summaries";
import { memory, Summing, say, whole } from "./test/summing";

const of = Summing.each();

describe("a running summary", () => {
  it("is made once four older turns are not covered, and goes along from the next message on", async () => {
    const { conversation, replies } = await of.talk(6);
    expect(of.summing).toHaveLength(1);
    expect(of.summing[0]?.messages).toHaveLength(1);
    expect(of.summing[0]?.messages[0]?.content).toBe(
      `${usualSummaryPrompt}\n\nWhat was said before:\n\n${[1, 2, 3, 4].map((turn) => `Visitor: Question ${turn}?\n\nApp: Answer ${turn}.`).join("\n\n")}`,
    );
    expect(of.kept(conversation)).toMatchObject([
      { turn: 4, message: replies[3], text: "Summary 1.", maker: { provider: "test", model: "m" }, isCut: false },
    ]);
    const { reply } = await of.said("Question 7?", { conversation });
    expect(of.replying.at(-1)?.messages[0]?.content).toBe(
      "Be brief.\n\nWhat was said before that, in short:\n\nSummary 1.",
    );
    expect(
      of.replying
        .at(-1)
        ?.messages.slice(1)
        .map(({ content: text }) => text),
    ).toEqual(["Question 5?", "Answer 5.", "Question 6?", "Answer 6.", "Question 7?"]);
    expect(of.home.dispatches.ofReply(reply)[0]?.ledger?.entries[1]).toMatchObject({
      part: "summary",
      turn: 4,
      carried: true,
    });
  });

  it("goes on from the one before, which stays for other lines", async () => {
    const { conversation } = await of.talk(10);
    expect(of.summing).toHaveLength(2);
    expect(of.summing[1]?.messages[0]?.content).toContain(
      "in short:\n\nSummary 1.\n\nWhat was said before:\n\nVisitor: Question 5?",
    );
    expect(of.kept(conversation).map(({ turn, text }) => [turn, text])).toEqual([
      [8, "Summary 2."],
      [4, "Summary 1."],
    ]);
  });

  it("is paid for with its conversation, its app and its day", async () => {
    const { conversation } = await of.talk(6);
    const each = 30 + 4 * 2;
    expect(of.kept(conversation)[0]?.price).toEqual({ amount: each, currency: "EUR" });
    expect(of.home.conversations.byId(conversation)?.price).toBe(each * 7 * 1_000_000);
    expect(of.home.spend.since(of.on.app.id, 0)).toBe(each * 7 * 1_000_000);
  });

  it("is reckoned with before a conversation is said again: as many as it would make, and what they cost", async () => {
    const { conversation } = await of.talk(10);
    const stored = of.home.conversations.byId(conversation) as StoredConversation;
    const withSummaries = await estimateSayingAgain(of.home, of.on.app, stored, undefined);
    expect(withSummaries.summaries).toMatchObject({ count: of.summing.length });
    of.edit({ memory: { kind: "last-turns", turns: 2 } });
    const without = await estimateSayingAgain(of.home, of.on.app, stored, undefined);
    expect(without.summaries).toBeNull();
    const { input, output, price } = withSummaries.summaries ?? { input: 0, output: 0, price: 0 };
    expect(price).toBeCloseTo(input + 2 * output);
    expect(withSummaries.price).toBeCloseTo(withSummaries.input + 2 * withSummaries.output + price);
    // each message from the seventh on would carry one
    expect(withSummaries.input).toBeGreaterThan(without.input);
  });

  it("is made before that where room is so short that turns would be left out", async () => {
    of.edit({ model: "small", settings: { maxOutput: 250 }, memory: { kind: "summary", turns: 1 } });
    const { conversation } = await of.talk(1);
    const long = "One two three four five six seven eight nine ten eleven twelve. ".repeat(3);
    await of.said(long, { conversation });
    await of.said(long, { conversation });
    await expect.poll(() => of.kept(conversation).length).toBeGreaterThan(0);
    expect(of.kept(conversation)[0]?.turn).toBeLessThan(4);
  });

  it("of much takes as many calls as the model that makes it has room for", async () => {
    of.edit({ memory: { kind: "last-turns", turns: 1 } });
    const { conversation } = await of.talk(30);
    of.edit({ memory: { ...memory, by: { provider: of.on.slug, model: "small" } } });
    await of.said("Last?", { conversation });
    await of.settled(conversation);
    expect(of.summing.length).toBeGreaterThan(1);
    expect(of.summing.every(({ model }) => model === "small")).toBe(true);
    expect(of.kept(conversation)[0]?.turn).toBe(29);
    const told = of.summing.flatMap((each) =>
      [...whole(each).matchAll(/Question (\d+)\?/g)].map(([, turn]) => Number(turn)),
    );
    expect(told).toEqual(Array.from({ length: 29 }, (_, at) => at + 1));
  });

  it("leaves out what is pinned, and does not fit any more once that changes", async () => {
    const { conversation, messages } = await of.talk(3);
    setPin(of.home, messages[1] ?? "", true);
    for (const turn of [4, 5, 6, 7]) await of.said(`Question ${turn}?`, { conversation });
    await of.settled(conversation);
    expect(whole(of.summing[0])).not.toContain("Question 2?");
    await of.said("Question 8?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Question 2?");
    expect(whole(of.replying.at(-1))).toContain("Summary 1.");
    setPin(of.home, messages[1] ?? "", false);
    await of.said("Question 9?", { conversation });
    expect(whole(of.replying.at(-1))).not.toContain("Summary");
    expect(whole(of.replying.at(-1))).toContain("Question 2?");
  });

  it("of each model covers what that model answered, where memory is apart", async () => {
    of.edit({ memory: { ...memory, apart: true } });
    const { conversation } = await of.talk(6);
    expect(of.kept(conversation)[0]).toMatchObject({ by: { provider: "test", model: "m" }, turn: 4 });
    of.edit({ memory: { ...memory, apart: true }, model: "small" });
    await of.said("Other?", { conversation });
    expect(whole(of.replying.at(-1))).not.toMatch(/Summary|Question/);
  });

  it("covers nothing above a clear", async () => {
    const { conversation, replies } = await of.talk(6);
    setClear(of.home, replies[2] ?? "", true);
    await of.said("Question 7?", { conversation });
    expect(whole(of.replying.at(-1))).not.toMatch(/Summary|Question 3/);
    for (const turn of [8, 9]) await of.said(`Question ${turn}?`, { conversation });
    await of.settled(conversation);
    expect(whole(of.summing.at(-1))).not.toContain("Question 3?");
    expect(of.kept(conversation)[0]).toMatchObject({ turn: 7, clear: replies[2] });
  });
});

describe("a summary that is there", () => {
  it("is put right by hand, and stays so with another prompt", async () => {
    const { conversation } = await of.talk(6);
    const [summary] = of.kept(conversation);
    correctSummary(of.home, summary?.id ?? "", "The visitor is Marit.");
    of.edit({ memory: { ...memory, prompt: "Shorten this." } });
    await of.said("Question 7?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("The visitor is Marit.");
    await of.settled(conversation);
    expect(of.summing).toHaveLength(1);
  });

  it("that is put right while the next one is made from it is in that one", async () => {
    const { conversation } = await of.talk(6);
    const [first] = of.kept(conversation);
    const late = of.held();
    for (const turn of [7, 8, 9, 10]) await of.said(`Question ${turn}?`, { conversation });
    await expect.poll(() => late.response).toBeDefined();
    expect(whole(of.summing[1])).toContain("Summary 1.");
    const closed = new Promise((resolve) => late.response?.on("close", resolve));
    of.sumUp = (response) => say(response, "She is Marit, and asks about ten things.");
    correctSummary(of.home, first?.id ?? "", "The visitor is Marit.");
    await closed;
    await of.settled(conversation);
    expect(of.summing).toHaveLength(3);
    expect(whole(of.summing[2])).toContain("The visitor is Marit.");
    expect(whole(of.summing[2])).not.toContain("Summary 1.");
    expect(of.kept(conversation).map(({ turn, text }) => [turn, text])).toEqual([
      [8, "She is Marit, and asks about ten things."],
      [4, "The visitor is Marit."],
    ]);
  });

  it("is stale with another prompt: it goes along until it is made anew, from the messages", async () => {
    const { conversation } = await of.talk(6);
    of.edit({ memory: { ...memory, prompt: "Shorten this." } });
    await of.said("Question 7?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Summary 1.");
    await expect.poll(() => of.kept(conversation)[0]?.text).toBe("Summary 2.");
    expect(whole(of.summing[1])).toMatch(/^Shorten this\.\n\nWhat was said before:\n\nVisitor: Question 1\?/);
  });

  it("is made anew when that is asked for", async () => {
    const { conversation } = await of.talk(6);
    const stored = of.home.conversations.byId(conversation);
    if (!stored) return expect.unreachable();
    sumUpAnew(of.home, of.on.app, stored);
    await expect.poll(() => of.kept(conversation)[0]?.text).toBe("Summary 2.");
    expect(whole(of.summing[1])).toContain("Question 1?");
    const other = await of.talk(1);
    expect(() => sumUpAnew(of.home, of.on.app, of.home.conversations.byId(other.conversation) as never)).toThrow(
      /Nothing is older/,
    );
  });

  it("goes with what it covers, and what was said to the model for it too", async () => {
    const { conversation, replies } = await of.talk(3);
    const { reply } = await of.said("Other 3?", { conversation, after: replies[1] });
    for (const turn of [4, 5, 6]) await of.said(`Question ${turn}?`, { conversation });
    await of.settled(conversation);
    expect(of.kept(conversation)).toHaveLength(1);
    const line = of.home.messages.message(reply)?.parent ?? "";
    await deleteBranch(of.home, line);
    const rows = () =>
      ["summaries", "makings WHERE purpose = 'summary'"].map((what) =>
        of.home.database.prepare(`SELECT count(*) FROM ${what}`).pluck().get(),
      );
    await expect.poll(rows).toEqual([0, 0]);
  });

  it("of a conversation that is deleted while it is made is not kept", async () => {
    of.sumUp = () => {};
    const { conversation } = await of.talk(5);
    await of.said("Question 6?", { conversation });
    await expect.poll(() => of.summing.length).toBe(1);
    await deleteConversation(of.home, conversation, "restorable");
    await expect.poll(() => of.home.summarising.standing(conversation)).toBeNull();
    expect(of.home.database.prepare("SELECT count(*) FROM summaries").pluck().get()).toBe(0);
  });
});
