import { describe, expect, it } from "vitest";
import { piecesOf } from "../conversation/pieces";
import { encode, type WireCall } from "./encode";
import type { WireRole } from "./message";
import { compileProfile, ProfileError } from "./profile";
import type { WrittenProfile } from "./profile-schema";

/** A profile whose request is this. */
function profileOf(
  request: Partial<WrittenProfile["request"]>,
  change: Partial<Omit<WrittenProfile, "request">> = {},
): WrittenProfile {
  return {
    profile: 1,
    shape: "Request",
    request: { method: "POST", path: "/x", headers: {}, ...request },
    roles: { system: "s", visitor: "v", app: "a" },
    answer: { whole: { rules: [{ text: "$.t" }] }, problem: { message: "$.e" } },
    finishWords: {},
    ...change,
  };
}

const said = (...messages: [role: WireRole, text: string][]): WireCall["messages"] =>
  messages.map(([role, text]) => ({ role, pieces: piecesOf(text) }));
const talk = said(["system", "Be brief."], ["visitor", "Hi"], ["app", "Aye."], ["visitor", "And?"]);

const made = (profile: WrittenProfile, call: Partial<WireCall> = {}) =>
  encode(compileProfile(profile), { model: "m", stream: false, messages: talk, settings: {}, ...call });
const bodyOf = (profile: WrittenProfile, call?: Partial<WireCall>) => JSON.parse(made(profile, call).body ?? "null");

describe("a request", () => {
  it("has the newest message apart from what was said before it", () => {
    const profile = profileOf(
      {
        body: {
          ask: { "<of>": "newest", as: "<text>" },
          from: { "<of>": "newest", as: { who: "<role>", parts: { "<each>": "pieces", as: { say: "<text>" } } } },
          before: { "<each>": "earlier", as: { who: "<role>", say: "<text>" } },
          rule: "<system>",
        },
      },
      { roles: { visitor: "v", app: "a", prompt: "field" } },
    );
    expect(bodyOf(profile)).toEqual({
      ask: "And?",
      from: { who: "v", parts: [{ say: "And?" }] },
      before: [
        { who: "v", say: "Hi" },
        { who: "a", say: "Aye." },
      ],
      rule: "Be brief.",
    });
    expect(bodyOf(profile, { messages: [] })).toEqual({ before: [] });
  });

  it("begins with the visitor where the API wants that, and is left alone where it does", () => {
    const body = { all: { "<each>": "messages", as: "<role>: <text>" } };
    const profile = profileOf({ body }, { roles: { system: "s", visitor: "v", app: "a", begin: { say: "(begin)" } } });
    expect(bodyOf(profile, { messages: said(["system", "S"], ["app", "Welcome."], ["visitor", "Hi"]) })).toEqual({
      all: ["s: S", "v: (begin)", "a: Welcome.", "v: Hi"],
    });
    expect(bodyOf(profile).all.slice(0, 2)).toEqual(["s: Be brief.", "v: Hi"]);
  });

  it("has a model's name with its slashes, or without", () => {
    const at = (path: string) => made(profileOf({ path }), { model: "ferry/large v2:a" }).path;
    expect(at("/models/<modelPath>:say")).toBe("/models/ferry/large%20v2%3Aa:say");
    expect(at("/models/<model>:say")).toBe("/models/ferry%2Flarge%20v2%3Aa:say");
  });

  it("is a form, lists by repeating their name", () => {
    const profile = profileOf({
      bodyAs: "form",
      headers: { "content-type": "application/x-www-form-urlencoded" },
      body: {
        model: "<model>",
        text: { "<join>": [{ "<each>": "messages", as: "<role>: <text>" }], with: "\n" },
        heat: "<temperature>",
        stop: "<stop>",
      },
    });
    const { body } = made(profile, { settings: { temperature: 0.5, stop: ["ä b", "&"] } });
    expect(body).toBe(
      "model=m&text=s%3A+Be+brief.%0Av%3A+Hi%0Aa%3A+Aye.%0Av%3A+And%3F&heat=0.5&stop=%C3%A4+b&stop=%26",
    );
  });

  it("has values of the provider's own, those that have one by themselves too, in path, query, headers and body", () => {
    const profile = profileOf(
      {
        path: "/<value:region>/x",
        query: { project: "<value:project>" },
        headers: { "x-space": "<value:space>" },
        body: { region: "<value:region>" },
      },
      {
        values: [
          { name: "region", default: "north east" },
          { name: "project", default: "trial" },
          { name: "space", says: "Workspace", default: "bench" },
        ],
      },
    );
    expect(made(profile, { values: { project: "p&1", space: "bench" } })).toEqual({
      method: "POST",
      path: "/north%20east/x?project=p%261",
      headers: { "x-space": "bench" },
      body: '{"region":"north east"}',
    });
    expect(made(profile, { values: { project: "p", region: "south" } }).path).toBe("/south/x?project=p");
    expect(() => compileProfile(profileOf({ path: "/<value:depot>" }))).toThrow(ProfileError);
    expect(() => compileProfile(profileOf({ path: "/<value:depot>" }))).toThrow(
      "<value:depot> is declared nowhere: name it in values",
    );
  });

  it("has what its query fixes encoded once, and what is filled into it too", () => {
    const profile = profileOf({
      query: { view: "a b&c/ä", version: "2026-01-15", for: "m=<model>", key: "<key>" },
    });
    expect(made(profile, { model: "x/y", key: "k+1" }).path).toBe(
      "/x?view=a%20b%26c%2F%C3%A4&version=2026-01-15&for=m%3Dx%2Fy&key=k%2B1",
    );
    expect(made(profile, { key: "••••" }).path).toContain("key=••••");
  });

  it("has the schema that a reply must satisfy, where one is asked for", () => {
    const profile = profileOf({
      body: { form: { "<if>": "schema", as: { kind: "schema", name: "reply", of: "<schema>" } } },
    });
    expect(bodyOf(profile)).toBeNull();
    expect(bodyOf(profile, { schema: { type: "object" } })).toEqual({
      form: { kind: "schema", name: "reply", of: { type: "object" } },
    });
  });

  it("writes a conversation between special marks", () => {
    const profile = profileOf({
      body: {
        prompt: {
          "<join>": [{ "<each>": "messages", as: "<<|<role>|>\n<text><<|end|>" }, "<<|a|>\n"],
          with: "\n",
        },
      },
    });
    expect(bodyOf(profile).prompt).toBe(
      "<|s|>\nBe brief.<|end|>\n<|v|>\nHi<|end|>\n<|a|>\nAye.<|end|>\n<|v|>\nAnd?<|end|>\n<|a|>\n",
    );
  });
});
