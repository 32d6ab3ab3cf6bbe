import { describe, expect, it } from "vitest";
import { compileTemplate, TemplateError } from "./template";

const known = ["model", "key", "stream", "temperature", "messages", "role", "text", "stop"];
const fill = (source: unknown, values: Record<string, unknown>) => compileTemplate(source, known)(values);

describe("filling a template", () => {
  it("keeps the type of a value where the string is one placeholder", () => {
    expect(
      fill({ t: "<temperature>", s: "<stream>", w: "<stop>" }, { temperature: 0, stream: false, stop: ["."] }),
    ).toEqual({
      t: 0,
      s: false,
      w: ["."],
    });
  });

  it("writes a value into a longer string", () => {
    expect(fill("Bearer <key>", { key: "abc" })).toBe("Bearer abc");
    expect(fill("/models/<model>/speak", { model: "pan" })).toBe("/models/pan/speak");
  });

  it("leaves out a member whose placeholder has no value, and an object of which nothing is left", () => {
    const source = { model: "<model>", temperature: "<temperature>", inner: { key: "k <key>" }, plain: {} };
    expect(fill(source, { model: "m" })).toEqual({ model: "m", plain: {} });
  });

  it("joins texts and lists of them", () => {
    const source = { "<join>": [{ "<each>": "messages", as: "<role>: <text>" }, "app:"], with: "\n" };
    const messages = [
      { role: "visitor", text: "Hello" },
      { role: "app", text: "Aye" },
    ];
    expect(fill(source, { messages })).toBe("visitor: Hello\napp: Aye\napp:");
  });

  it("goes through the messages, each with values of its own", () => {
    const source = { messages: { "<each>": "messages", as: { role: "<role>", content: "<text>", of: "<model>" } } };
    const messages = [
      { role: "user", text: "Hello" },
      { role: "assistant", text: "Aye" },
    ];
    expect(fill(source, { model: "m", messages })).toEqual({
      messages: [
        { role: "user", content: "Hello", of: "m" },
        { role: "assistant", content: "Aye", of: "m" },
      ],
    });
  });

  it("chooses by condition", () => {
    const source = {
      extra: { "<if>": "stream", as: { usage: true }, else: "none" },
      only: { "<if>": "stop", as: 1 },
    };
    expect(fill(source, { stream: true, stop: [] })).toEqual({ extra: { usage: true }, only: undefined });
    expect(fill(source, { stream: false, stop: ["x"] })).toEqual({ extra: "none", only: 1 });
    expect(fill({ "<if>": "role", is: "app", as: 1, else: 2 }, { role: "app" })).toBe(1);
    expect(fill({ "<if>": "role", is: "app", as: 1, else: 2 }, { role: "visitor" })).toBe(2);
  });

  it("does not read placeholders in the values it writes", () => {
    expect(fill({ "<each>": "messages", as: "<text>" }, { key: "secret", messages: [{ text: "say <key>" }] })).toEqual([
      "say <key>",
    ]);
  });

  it("writes << as a plain <", () => {
    expect(fill("a << b <<key>", {})).toBe("a < b <key>");
  });

  it.each([
    [{ a: { b: ["<temprature>"] } }, "a.b[0]", /<temprature> is not a placeholder/],
    [{ m: { "<each>": "messages", was: 1 } }, "m", /"was" does not belong beside "<each>"/],
    [{ "<if>": "steam", as: 1 }, ".<if>", /<steam> is not a placeholder/],
  ])("refuses %j with the place", (source, place, reason) => {
    try {
      compileTemplate(source, known);
      expect.unreachable();
    } catch (error) {
      expect(error).toBeInstanceOf(TemplateError);
      expect(error).toMatchObject({ place, message: expect.stringMatching(reason) });
    }
  });
});
