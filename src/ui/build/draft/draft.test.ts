import { describe, expect, it } from "vitest";
import type { Content } from "@/core/revision/content";
import { afterHearing, afterStoring, chosen, edited, isEdited, readDraft } from "./draft";

const content: Content = {
  prompt: "You are Quay Desk.",
  provider: "reedbed",
  model: "reed-swift",
  settings: { temperature: 0.7 },
  memory: { kind: "everything" },
  variables: {},
};
const read = readDraft({ draft: content, draftHash: "one" });
const nothing = { kind: "nothing" } as const;

describe("a draft that is edited in a tab", () => {
  it("is edited until it is what is stored", () => {
    expect(isEdited(read)).toBe(false);
    const changed = edited(read, { prompt: "Be brief." });
    expect(isEdited(changed)).toBe(true);
    expect(isEdited(edited(changed, { prompt: content.prompt }))).toBe(false);
  });

  it("keeps what was written while it was being stored", () => {
    const sent = edited(read, { prompt: "Be" }).content;
    const since = edited(edited(read, { prompt: "Be" }), { prompt: "Be brief." });
    const after = afterStoring(since, sent, { draft: sent, draftHash: "two" });
    expect(after).toMatchObject({ hash: "two", base: sent, content: { prompt: "Be brief." } });
    expect(isEdited(after)).toBe(true);
  });

  it("takes along what another tab stored of another part", () => {
    const mine = edited(read, { prompt: "Be brief." });
    const after = afterHearing(mine, { draft: { ...content, memory: nothing }, draftHash: "two" });
    expect(after).toMatchObject({
      hash: "two",
      conflict: undefined,
      content: { prompt: "Be brief.", memory: nothing },
    });
    expect(isEdited(after)).toBe(true);
  });

  it("is the other's where nothing was edited here, and stays the same object where nothing changed", () => {
    const theirs = { ...content, prompt: "Be kind." };
    expect(afterHearing(read, { draft: theirs, draftHash: "two" })).toMatchObject({ content: theirs, hash: "two" });
    expect(afterHearing(read, { draft: content, draftHash: "one" })).toBe(read);
  });

  it("keeps both where the same part was changed, and becomes the one that is chosen, with the other's other parts", () => {
    const mine = edited(read, { prompt: "Be brief." });
    const theirs = { ...content, prompt: "Be kind.", memory: nothing };
    const both = afterHearing(mine, { draft: theirs, draftHash: "two" });
    expect(both).toMatchObject({
      content: { prompt: "Be brief." },
      conflict: { draft: theirs, parts: ["system prompt"] },
    });
    expect(chosen(both, "mine")).toMatchObject({
      content: { prompt: "Be brief.", memory: nothing },
      hash: "two",
      conflict: undefined,
    });
    expect(chosen(both, "theirs")).toMatchObject({ content: theirs, conflict: undefined });
    expect(isEdited(chosen(both, "theirs"))).toBe(false);
    expect(chosen(read, "mine")).toBe(read);
  });
});
