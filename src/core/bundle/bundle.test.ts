import { describe, expect, it } from "vitest";
import { shown } from "../guards/test/parts";
import { usualLimits } from "../provider/limits";
import { type Bundle, providersIn, readBundle, writeBundle } from "./bundle";

const content = {
  prompt: "You are Quay Desk.\nBe brief.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: { temperature: 0.2 },
  memory: { kind: "everything" as const },
};
const bundle: Bundle = {
  name: "Quay Desk",
  live: content,
  draft: { ...content, prompt: "You are Quay Desk." },
  look: {} as Bundle["look"],
  scripts: [{ name: "quay-desk", text: "check  a\nvisitor  b\n" }],
  providers: [
    {
      slug: "reedbed",
      name: "Reedbed",
      address: "http://127.0.0.1:4610",
      profile: { name: "chat" },
      credential: { kind: "key", secret: { variable: "REEDBED_KEY" } },
      headers: {},
      extras: {},
      values: {},
      signing: null,
      limits: usualLimits,
      retries: 2,
      atOnce: 4,
      models: [],
    },
  ],
  documents: [],
};

describe("a bundle", () => {
  it("is read as it was written, to the same bytes", () => {
    const text = writeBundle(bundle);
    const read = readBundle(text);
    if (read.kind !== "read") throw new Error(read.why);
    expect(read.bundle.draft.prompt).toBe("You are Quay Desk.");
    expect(read.bundle.scripts).toEqual(bundle.scripts);
    expect(writeBundle(read.bundle)).toBe(text);
  });

  it("takes along every provider that its app names", () => {
    const judge = shown({ kind: "judge", rubric: "is kind", by: { provider: "judges", model: "j" } }, "refuse");
    const named = {
      ...content,
      fallbacks: [{ provider: "saltpan", model: "pan-clear" }],
      memory: { kind: "summary" as const, turns: 3, by: { provider: "sums", model: "s" } },
      sources: { documents: [], meaning: { provider: "looms", model: "weft" } },
      guards: [judge],
    };
    expect(providersIn(named)).toEqual(["reedbed", "saltpan", "sums", "looms", "judges"]);
  });

  it("carries the documents that its app answers from, and nothing of them where there are none", () => {
    expect(writeBundle(bundle)).not.toContain("documents");
    const hash = "a".repeat(64);
    const origin = { kind: "file" as const, name: "rules.md" };
    const documents = [
      { title: "Rules", short: "rules", origin, versions: [{ hash, lines: ["# Rules", ""] }] },
      { title: "Plan", short: "plan", origin, versions: [{ hash, base64: "AAEC" }] },
    ];
    const read = readBundle(writeBundle({ ...bundle, documents }));
    expect(read.kind === "read" && read.bundle.documents).toEqual(documents);
  });

  it("has each line of a prompt and of a script on a line of its own, and says once what is the same", () => {
    const text = writeBundle({ ...bundle, draft: content });
    expect(text).toContain('      "You are Quay Desk.",\n      "Be brief."\n');
    expect(text).toContain('"draft": null');
  });

  it.each([
    ["", "no JSON"],
    ["[]", "the whole"],
    ['{"bundle": 2}', "version 2"],
    [writeBundle(bundle).replace('"temperature": 0.2', '"temperature": 9'), "settings.temperature"],
    [writeBundle(bundle).replace('"REEDBED_KEY"', '"no name"'), "providers.0.credential"],
    [writeBundle(bundle).replace('"bundle": 1,', '"bundle": 1, "more": 1,'), "more"],
    [writeBundle(bundle).replace('"script": "quay-desk"', '"script": "../up"'), "checks.0.script"],
  ])("that is broken is named: %#", (text, why) => {
    expect(readBundle(text)).toMatchObject({ kind: "wrong", why: expect.stringContaining(why) });
  });
});
