import { describe, expect, it } from "vitest";
import type { Content } from "../revision/content";
import { countsOf } from "../tokens/counts";
import { assemble } from "./assemble";
import { sameTokens } from "./cache";
import { type Forecast, forecast, withTyped } from "./forecast";
import type { Lead } from "./lead";
import type { Memory } from "./policies/policies";
import { tokensOfPart } from "./reach";
import { rowOf } from "./row";
import { askedFor, line, plainContent } from "./test/line";

const content = (memory: Memory, prompt = "You are the desk."): Content => ({ ...plainContent, memory, prompt });
const said = (turns: number) => Array.from({ length: turns }, (_, at) => [`Question ${at}?`, `Answer ${at}.`]).flat();
const { calibration, by } = askedFor();
const model = { window: 100_000, maxOutput: 100, calibration, by };

/** What was sent for the last turn of a line, and what the next message would send. */
function twice(turns: number, before: Content, next = before): { lead: Lead; ahead: Forecast } {
  const whole = line(...said(turns));
  const sent = assemble(askedFor({ content: before, window: 100_000 }), whole.slice(0, -1));
  if (sent.kind !== "ready" || !sent.ledger.lead) throw new Error("It could not be assembled.");
  return { lead: sent.ledger.lead, ahead: forecast(next, { rows: whole.map(rowOf) }, model, 0) };
}
const sameOf = ({ lead, ahead }: ReturnType<typeof twice>) => ahead.lead && sameTokens(lead, ahead.lead, ahead);

describe("what is the same as last time", () => {
  it("is all but the last answer and the new message where everything is carried", () => {
    const both = twice(4, content({ kind: "everything" }));
    const answer = both.ahead.tokens - (sameOf(both) ?? 0);
    expect(answer).toBeGreaterThan(0);
    expect(answer).toBeLessThan(both.ahead.turns.tokens / 4);
    const typed = withTyped(both.ahead, "And on Sunday?");
    expect(typed.lead && sameTokens(both.lead, typed.lead, typed)).toBe(sameOf(both));
  });

  it("is the prompt alone where the oldest turn was let go of", () => {
    const both = twice(4, content({ kind: "last-turns", turns: 2 }));
    expect(sameOf(both)).toBe(tokensOfPart(both.ahead, "prompt"));
  });

  it("is the prompt and the question where nothing was remembered before", () => {
    const both = twice(1, content({ kind: "last-turns", turns: 2 }));
    expect(sameOf(both)).toBeGreaterThan(tokensOfPart(both.ahead, "prompt"));
    expect(sameOf(both)).toBeLessThan(both.ahead.tokens);
  });

  it("is nothing once the prompt says something else", () => {
    const memory: Memory = { kind: "everything" };
    expect(sameOf(twice(3, content(memory), content(memory, "You are the other desk.")))).toBe(0);
  });

  it("is the prompt with the turns that stood in it, where they are carried as text", () => {
    const both = twice(4, content({ kind: "everything", as: "text" }));
    const messages = twice(4, content({ kind: "everything" }));
    // the question that was answered last stood after the prompt
    expect(sameOf(both)).toBeLessThan(both.ahead.tokens - (messages.ahead.tokens - (sameOf(messages) ?? 0)));
    expect(sameOf(both)).toBeGreaterThan(both.ahead.tokens / 2);
  });

  it("begins with the summary, as long as that is the same one", () => {
    const whole = line(...said(6));
    const memory: Memory = { kind: "summary", turns: 2 };
    const summary = (id: string, text: string) => ({
      ...{ id, text, turn: 3, counts: countsOf(text) },
      ...{ clear: null, by: null, leftOut: [] },
    });
    const first = summary("s1", "The visitor is Marit.");
    const asked = askedFor({ content: content(memory), window: 100_000, summaries: [first] });
    const sent = assemble(asked, whole.slice(0, -1));
    if (sent.kind !== "ready" || !sent.ledger.lead) return expect.unreachable();
    const { lead } = sent.ledger;
    const next = (id: string, text: string) => {
      const atHand = { rows: whole.map(rowOf), summaries: [summary(id, text)] };
      return sameOf({ lead, ahead: forecast(content(memory), atHand, model, 0) });
    };
    expect(next("s1", "The visitor is Marit.")).toBeGreaterThan(20);
    // the prompt stands before it
    expect(next("s2", "The visitor is Ada.")).toBeLessThan(10);
  });
});
