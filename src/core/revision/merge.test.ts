import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Content, contentSchema, sameContent } from "./content";
import { merge, parts } from "./merge";

const base: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: { temperature: 0.7 },
  memory: { kind: "everything" },
};

describe("two edits of one draft", () => {
  it("both stay where they are of different parts", () => {
    const stored = { ...base, prompt: "Be long.", settings: { temperature: 0.2 } };
    const edited: Content = { ...base, memory: { kind: "nothing" }, opening: [{ visitor: "Hello", app: "Yes?" }] };
    expect(merge(base, stored, edited)).toEqual({
      kind: "merged",
      content: { ...stored, memory: { kind: "nothing" }, opening: [{ visitor: "Hello", app: "Yes?" }] },
    });
  });

  it("of the same part are a conflict, which names it, unless both made the same of it", () => {
    const stored = { ...base, prompt: "Be long.", model: "reed-swift" };
    const edited = { ...base, prompt: "Be kind.", model: "reed-swift" };
    expect(merge(base, stored, edited)).toEqual({ kind: "conflict", parts: ["system prompt"] });
    expect(merge(base, stored, { ...edited, prompt: "Be long." })).toEqual({ kind: "merged", content: stored });
  });

  it("take a model along with the provider that it is on", () => {
    const stored = { ...base, model: "reed-swift" };
    const edited = { ...base, provider: "saltpan", model: "pan-clear" };
    expect(merge(base, stored, edited)).toEqual({ kind: "conflict", parts: ["model"] });
    expect(merge(base, base, edited)).toEqual({ kind: "merged", content: edited });
  });

  it("are a conflict wherever they differ, where nobody has any more what both began with", () => {
    const stored = { ...base, prompt: "Be long." };
    expect(merge(undefined, stored, stored)).toEqual({ kind: "merged", content: stored });
    expect(merge(undefined, stored, base)).toEqual({ kind: "conflict", parts: ["system prompt"] });
  });

  it("are settled by whoever is to win, in those parts alone that both changed", () => {
    const stored: Content = { ...base, prompt: "Be long.", memory: { kind: "nothing" } };
    const edited = { ...base, prompt: "Be kind.", settings: {} };
    expect(merge(base, stored, edited, "edited")).toEqual({
      kind: "merged",
      content: { ...stored, prompt: "Be kind.", settings: {} },
    });
    expect(merge(base, stored, edited, "stored")).toEqual({ kind: "merged", content: { ...stored, settings: {} } });
  });

  it("know every member of a content as a part, or as one of a part", () => {
    const members = parts.flatMap(([, each]) => each);
    expect([...members].sort()).toEqual(Object.keys(contentSchema.shape).sort());
  });

  it("lose no edit of either, whatever was edited", () => {
    const edit = fc.record(
      {
        prompt: fc.constantFrom("One.", "Two."),
        timeZone: fc.constantFrom("UTC", "Europe/Paris", undefined),
        settings: fc.constantFrom({ temperature: 0.1 }, { temperature: 0.2 }),
        memory: fc.constantFrom({ kind: "nothing" as const }, { kind: "everything" as const }),
        off: fc.constantFrom<string[] | undefined>(["block"], undefined),
      },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(edit, edit, (theirs, mine) => {
        const stored = { ...base, ...theirs };
        const edited = { ...base, ...mine };
        const merged = merge(base, stored, edited);
        if (merged.kind === "conflict") {
          const [won, lost] = [merge(base, stored, edited, "edited"), merge(base, stored, edited, "stored")];
          return won.kind === "merged" && lost.kind === "merged" && !sameContent(won.content, lost.content);
        }
        expect(contentSchema.safeParse(JSON.parse(JSON.stringify(merged.content))).success).toBe(true);
        // whoever changed a member finds it changed
        for (const [edits, whole] of [
          [theirs, stored],
          [mine, edited],
        ] as const)
          for (const member of Object.keys(edits) as (keyof typeof edits)[])
            if (JSON.stringify(edits[member] ?? null) !== JSON.stringify(base[member as keyof Content] ?? null))
              expect(merged.content[member as keyof Content]).toEqual(whole[member as keyof Content]);
        return sameContent(merge(base, edited, stored).kind === "merged" ? merged.content : base, merged.content);
      }),
    );
  });
});
