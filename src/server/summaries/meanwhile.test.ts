import type { ServerResponse } from "node:http";
import { describe, expect, it } from "vitest";
import { accessSchema } from "@/core/serving/access";
import { deleteBranch, setClear } from "../tending/branches";
import { deleteApp } from "../tending/deleting";
import { sumUpAnew } from "./summaries";
import { memory, Summing, say, whole } from "./test/summing";

const of = Summing.each();

describe("a summary that does not come as it should", () => {
  it("and fails leaves the next message what there is room for, which says so, and is tried again after it", async () => {
    of.sumUp = (response) => response.writeHead(500).end("{}");
    const { conversation } = await of.talk(6);
    expect(of.home.summarising.standing(conversation)).toMatchObject({
      state: "failed",
      problem: { kind: "overloaded" },
    });
    of.sumUp = (response, count) => say(response, `Summary ${count}.`);
    const { reply } = await of.said("Question 7?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Question 1?");
    expect(of.home.dispatches.ofReply(reply)[0]?.ledger?.entries[1]).toMatchObject({
      part: "summary",
      carried: false,
      reason: { kind: "no-summary" },
    });
    await expect.poll(() => of.kept(conversation).map(({ turn }) => turn)).toEqual([5]);
    expect(of.home.summarising.standing(conversation)).toBeNull();
  });

  it("and is empty, or declined, is none", async () => {
    of.sumUp = (response) => say(response, "  ");
    const { conversation } = await of.talk(6);
    expect(of.home.summarising.standing(conversation)).toMatchObject({ state: "failed", problem: { kind: "empty" } });
    expect(of.kept(conversation)).toEqual([]);
  });

  it("and comes late is not waited for: the next message goes without it, the one after that with it", async () => {
    const late = of.held();
    const { conversation } = await of.talk(5);
    await of.said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    expect(of.home.summarising.standing(conversation)).toEqual({ state: "making", turn: 4 });
    await of.said("Question 7?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Question 1?");
    say(late.response as ServerResponse, "Late summary.");
    await of.settled(conversation);
    await of.said("Question 8?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Late summary.");
    expect(whole(of.replying.at(-1))).not.toContain("Question 1?");
    expect(of.summing).toHaveLength(1);
  });

  it("and is asked for twice is made once", async () => {
    const late = of.held();
    const { conversation } = await of.talk(5);
    await of.said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    const stored = of.home.conversations.byId(conversation);
    if (!stored) return expect.unreachable();
    expect(() => sumUpAnew(of.home, of.on.app, stored)).toThrow(/being made/);
    await of.said("Question 7?", { conversation });
    await of.said("Question 8?", { conversation });
    say(late.response as ServerResponse, "Summary 1.");
    await of.settled(conversation);
    expect(of.summing).toHaveLength(1);
    expect(of.kept(conversation)).toHaveLength(1);
  });

  it("and is of a line that branches meanwhile goes along where the line holds what it covers, and nowhere else", async () => {
    const late = of.held();
    const { conversation, replies } = await of.talk(5);
    await of.said("Question 6?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    // another line from the middle, and one from below what is covered
    await of.said("Other 3?", { conversation, after: replies[1] });
    say(late.response as ServerResponse, "Summary 1.");
    await of.settled(conversation);
    await of.said("Other 4?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Other 3?");
    expect(whole(of.replying.at(-1))).not.toContain("Summary");
    await of.said("Again 6?", { conversation, after: replies[4] });
    await of.said("Again 7?", { conversation });
    expect(whole(of.replying.at(-1))).toContain("Summary 1.");
    expect(whole(of.replying.at(-1))).not.toMatch(/Question [1-4]\?/);
  });

  it("and is stopped keeps nothing, and says nothing", async () => {
    of.sumUp = () => {};
    const { conversation } = await of.talk(5);
    await of.said("Question 6?", { conversation });
    await expect.poll(() => of.summing.length).toBe(1);
    await of.home.summarising.stop(conversation);
    await expect.poll(() => of.home.summarising.standing(conversation)).toBeNull();
    expect(of.kept(conversation)).toEqual([]);
    expect(of.home.reservations.of(of.on.app.id)).toBe(0);
  });

  it("and is of a line that is cleared while it is made in several calls is not gone on with", async () => {
    of.edit({ memory: { kind: "last-turns", turns: 1 } });
    const { conversation, replies } = await of.talk(30);
    const late = of.held();
    of.edit({ memory: { ...memory, by: { provider: of.on.slug, model: "small" } } });
    await of.said("Last?", { conversation });
    await expect.poll(() => late.response).toBeDefined();
    setClear(of.home, replies[1] ?? "", true);
    of.sumUp = (response) => say(response, "Another.");
    say(late.response as ServerResponse, "First.");
    await of.settled(conversation);
    expect(of.kept(conversation).map(({ text, clear }) => [text, clear])).toEqual([["First.", null]]);
    await of.said("Now?", { conversation });
    expect(whole(of.replying.at(-1))).not.toMatch(/First\.|Question 1\?/);
  });

  it("and is of what is deleted meanwhile is stopped first: a branch, an app", async () => {
    of.sumUp = () => {};
    const { conversation, replies } = await of.talk(5);
    await of.said("Other 5?", { conversation, after: replies[3] });
    await of.said("Question 6?", { conversation });
    await expect.poll(() => of.summing.length).toBe(1);
    const line = of.home.messages.line(of.home.conversations.byId(conversation)?.tip ?? "");
    await deleteBranch(of.home, line[8]?.id ?? "");
    await expect.poll(() => of.home.summarising.standing(conversation)).toBeNull();
    for (const turn of [6, 7]) await of.said(`Question ${turn}?`, { conversation });
    await expect.poll(() => of.summing.length).toBe(2);
    await deleteApp(of.home, of.on.app);
    await expect.poll(() => of.home.summarising.standing(conversation)).toBeNull();
    expect(of.home.reservations.of(of.on.app.id)).toBe(0);
  });

  it("and has no money left for it in the day is refused, and nothing goes out", async () => {
    const access = accessSchema.parse({});
    // six replies have room; what a summary can cost has not
    const day = 400;
    of.on.app = of.home.apps.setAccess(of.on.app, { ...access, limits: { ...access.limits, day } });
    of.edit({ settings: { maxOutput: 20 } });
    const { conversation } = await of.talk(6);
    expect(of.summing).toHaveLength(0);
    expect(of.home.summarising.standing(conversation)).toMatchObject({
      state: "failed",
      problem: { kind: "over-limit" },
    });
    expect(of.home.reservations.of(of.on.app.id)).toBe(0);
  });
});
