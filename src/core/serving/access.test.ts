import { describe, expect, it } from "vitest";
import type { Content } from "../revision/content";
import { fillPrompt } from "../revision/variables";
import { accessSchema, originSchema, wantedContent } from "./access";

const content: Content = {
  prompt: "Be brief.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  fallbacks: [{ provider: "saltpan", model: "pan-clear" }],
  settings: { temperature: 0.7, maxOutput: 500 },
  memory: { kind: "everything" },
};

describe("an origin", () => {
  it.each(["http://localhost:5173", "https://chat.example", "http://[::1]:8080"])("%s is one", (origin) => {
    expect(originSchema.safeParse(origin).success).toBe(true);
  });

  it.each([
    "null",
    "*",
    "http://localhost:5173/",
    "http://localhost:80",
    "ftp://a.test",
    "HTTP://a.test",
    "a.test",
    "",
  ])("%s is none", (origin) => {
    expect(originSchema.safeParse(origin).success).toBe(false);
  });
});

describe("a caller's system message", () => {
  const system = "Answer in {{language}}.";

  it("goes after the app's own prompt, as it stands, where that is allowed", () => {
    const wanted = wantedContent(content, accessSchema.parse({ system: true }), { system });
    if (!wanted.ok) throw new Error(wanted.problem.detail);
    expect(fillPrompt(wanted.content, {}, 0)).toEqual({ text: `Be brief.\n\n${system}`, missing: [] });
  });

  it("is refused elsewhere, with its way out", () => {
    expect(wantedContent(content, accessSchema.parse({}), { system })).toMatchObject({
      ok: false,
      problem: { kind: "forbidden", advice: expect.stringContaining("Serve") },
    });
  });
});

describe("what a caller wants", () => {
  const access = accessSchema.parse({
    models: [{ provider: "saltpan", model: "pan-brief" }],
    settings: ["temperature"],
  });

  it("is the revision as it is where nothing is asked for", () => {
    expect(wantedContent(content, access, {})).toEqual({ ok: true, content });
  });

  it("is an allowed model, which then has no fallback that nobody chose", () => {
    expect(wantedContent(content, access, { model: "pan-brief" })).toMatchObject({
      ok: true,
      content: { provider: "saltpan", model: "pan-brief", fallbacks: undefined, prompt: "Be brief." },
    });
    expect(wantedContent(content, access, { provider: "reedbed" })).toMatchObject({
      ok: true,
      content: { model: "reed-deep" },
    });
  });

  it("is an allowed setting, beside the revision's own", () => {
    expect(wantedContent(content, access, { settings: { temperature: 0 } })).toMatchObject({
      content: { settings: { temperature: 0, maxOutput: 500 } },
    });
  });

  it.each([
    [{ model: "tide-wide" }, "tide-wide", "pan-brief"],
    [{ model: "pan-brief", provider: "reedbed" }, "pan-brief on reedbed", "reed-deep"],
    [{ settings: { maxOutput: 9 } }, "maxOutput", "temperature"],
  ])("%j is refused, with what there is", (asked, named, offered) => {
    const wanted = wantedContent(content, access, asked);
    expect(wanted).toMatchObject({ ok: false, problem: { kind: "forbidden" } });
    if (wanted.ok) return;
    expect(wanted.problem.detail).toContain(named);
    expect(wanted.problem.advice).toContain(offered);
  });
});
