import { describe, expect, it } from "vitest";
import { textOf } from "../../conversation/pieces";
import type { Content } from "../../revision/content";
import type { FoundPassage } from "../../sources/found";
import { rawTokens, uncalibrated } from "../../tokens/calibration";
import { type Counts, countsOf } from "../../tokens/counts";
import { type Asked, assemble, measure } from "../assemble";
import { barOf } from "../bar";
import { forecast } from "../forecast";
import { mostTokens } from "../reach";
import { rowOf } from "../row";
import { line } from "../test/line";

const content: Content = {
  prompt: "You are Harbour Desk.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: {},
  memory: { kind: "everything" },
  sources: { documents: [{ source: "rules" }] },
};

const found = (passage: string, likeness: number, text: string): FoundPassage => ({
  passage,
  source: "rules",
  version: "v",
  title: "Rules",
  short: "rules",
  text,
  where: { from: 0, to: text.length, headings: ["Animals"], page: 4 },
  likeness,
});
const dogs = found("1", 1, "Dogs travel free, on the lead.");
const cats = found("2", 0.8, "Cats travel in a basket.");
const tides = found("3", 0.01, "The tide turns at noon.");

const asking = line("Can my dog come?");
const asked = (more: Partial<Asked> = {}): Asked => ({
  content,
  variables: {},
  by: { provider: "reedbed", model: "reed-deep" },
  window: 4_000,
  calibration: uncalibrated,
  now: 0,
  found: [dogs, cats, tides],
  ...more,
});
const ready = (more?: Partial<Asked>) => {
  const assembled = assemble(asked(more), asking);
  if (assembled.kind !== "ready") throw new Error(JSON.stringify(assembled));
  return assembled;
};
const fates = ({ ledger }: ReturnType<typeof ready>) =>
  ledger.entries.flatMap((entry) =>
    entry.part === "passage" ? [[entry.passage, entry.carried ? entry.mark : entry.reason.kind]] : [],
  );

describe("passages that the message found", () => {
  it("go along in the prompt, each between two lines with its mark, and stand in the ledger one by one", () => {
    const context = ready();
    const [system, message] = context.messages.map(textOf);
    expect(system).toContain("==== [rules 1] Rules, Animals, page 4\nDogs travel free, on the lead.\n====");
    expect(system).toContain("[rules 2]");
    expect(system).toContain("Answer only from these passages.");
    expect(message).toBe("Can my dog come?");
    expect(fates(context)).toEqual([
      ["1", "rules 1"],
      ["2", "rules 2"],
      ["3", "below-bar"],
    ]);
    expect(context.passages.map(({ mark, text }) => [mark, text])).toEqual([
      ["rules 1", dogs.text],
      ["rules 2", cats.text],
    ]);
    const sum = context.ledger.entries.reduce((all, entry) => all + (entry.carried ? entry.tokens : 0), 0);
    expect(sum).toBe(context.ledger.tokens);
  });

  it("go along with the message where that is wanted, and leave the beginning of what is sent as it is", () => {
    const context = ready({ content: { ...content, sources: { documents: [{ source: "rules" }], as: "message" } } });
    const [system, message] = context.messages.map(textOf);
    expect(system).not.toContain("Dogs travel free");
    expect(message).toMatch(/^==== \[rules 1\][\s\S]*\n====\n\nCan my dog come\?$/);
  });

  it("are as many as there may be, within the tokens that they may have", () => {
    const sources = (more: object) => ({
      content: { ...content, sources: { documents: [{ source: "rules" }], ...more } },
    });
    expect(fates(ready(sources({ best: 1 })))[1]).toEqual(["2", "beyond-best"]);
    expect(fates(ready(sources({ within: 20 })))).toEqual([
      ["1", "over-room"],
      ["2", "over-room"],
      ["3", "below-bar"],
    ]);
    const beyond = textOf(ready(sources({ beyond: true, words: "Use these." })).messages[0] as never);
    expect(beyond).toContain("Use these.");
    expect(beyond).not.toContain("only from these");
  });

  it("give way before what is remembered would push the message out, and after older turns did", () => {
    const memory: Content["memory"] = { kind: "last-turns", turns: 20 };
    const long = line("Hello", "word ".repeat(300), "Can my dog come?");
    const assembled = assemble(asked({ content: { ...content, memory }, window: 380 }), long);
    if (assembled.kind !== "ready") throw new Error(JSON.stringify(assembled));
    expect(assembled.passages.map(({ mark }) => mark)).toEqual(["rules 1", "rules 2"]);
    expect(assembled.messages.map(textOf).join()).not.toContain("word word");
  });

  it("are held money for before they are found, and are none where the app has no documents", () => {
    const before = measure(asked({ found: undefined }), asking.map(rowOf));
    if (before.kind !== "ready") throw new Error("It is refused.");
    expect(mostTokens(before.reach)).toBeGreaterThanOrEqual(before.reach.tokens + 700);
    const none = ready({ content: { ...content, sources: undefined }, found: undefined });
    expect(none.messages).toHaveLength(2);
    expect(none.passages).toEqual([]);
    expect(none.ledger.entries.some((entry) => entry.part === "passage")).toBe(false);
  });

  it("are all of a document where that goes along whole, whatever the rest may have, and its money is held before", () => {
    const long = "Dogs and cats. ".repeat(400);
    const whole = {
      ...found("whole rules", 1, long),
      whole: "digest" as const,
      where: { from: 0, to: long.length, headings: [] },
    };
    const context = ready({
      content: { ...content, sources: { documents: [{ source: "rules" }], best: 1, within: 60 } },
      window: 20_000,
      found: [whole, cats, tides],
    });
    expect(textOf(context.messages[0] as never)).toContain("[rules 1] digest of Rules");
    expect(fates(context)).toEqual([
      ["whole rules", "rules 1"],
      ["2", "rules 2"],
      ["3", "below-bar"],
    ]);
    expect(context.ledger.entries.find((entry) => entry.part === "passage")).toMatchObject({ whole: "digest" });
    expect(context.passages[0]?.text.length).toBeLessThan(long.length + 1);
    const before = (wholes?: Counts) => {
      const measured = measure(asked({ found: undefined, wholes, window: 20_000 }), asking.map(rowOf));
      if (measured.kind !== "ready") throw new Error("It is refused.");
      return measured.reach;
    };
    const wholes = countsOf(long);
    expect(Math.abs(before(wholes).tokens - before().tokens - rawTokens(wholes))).toBeLessThanOrEqual(1);
    expect(mostTokens(before(wholes))).toBeGreaterThanOrEqual(before(wholes).tokens + 700);
  });

  it("are forecast by the same parts, and one stretch of the window", () => {
    const by = { provider: "reedbed", model: "reed-deep" };
    const room = { window: 4_000, calibration: uncalibrated, by };
    const ahead = forecast(content, { rows: asking.map(rowOf) }, room, 0, { found: [dogs, cats, tides] });
    const context = ready();
    expect(ahead.tokens).toBe(context.ledger.tokens);
    expect(barOf(ahead, ahead.room).filter(({ kind }) => kind === "passages")).toHaveLength(1);
  });
});

it("a turn is carried on without the marks of passages that the next reply does not have", () => {
  const talk = line("Can my dog come?", "Free [rules 1]. See [figure 2].", "And cats?");
  const reply = talk[1];
  if (reply?.role !== "app") throw new Error("It is no reply.");
  const { short: _short, likeness: _likeness, ...cited } = dogs;
  reply.facts = { ...reply.facts, cites: [{ mark: "rules 1", ...cited }] };
  const assembled = assemble(asked(), talk);
  if (assembled.kind !== "ready") throw new Error(JSON.stringify(assembled));
  expect(assembled.messages.map(textOf)[2]).toBe("Free. See [figure 2].");
});
