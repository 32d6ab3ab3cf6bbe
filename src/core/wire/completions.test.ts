import { describe, expect, it } from "vitest";
import { z } from "zod";
import { completionsAt, type SchemaNode } from "./completions";
import { profileSchema } from "./profile-schema";

const schema = z.toJSONSchema(profileSchema, { io: "input", unrepresentable: "any" }) as SchemaNode;

/** What is offered where a text has its bar. */
function offered(text: string) {
  const offset = text.indexOf("|");
  const found = completionsAt(schema, text.replace("|", ""), offset);
  return { from: found?.from, texts: found?.options.map((option) => option.text) ?? [] };
}

describe("what a profile can hold at a place", () => {
  it("is the members that are not there yet, with what they mean", () => {
    const { texts } = offered('{"profile": 1, "|"}');
    expect(texts).toEqual(expect.arrayContaining(['"request"', '"roles"', '"answer"']));
    expect(texts).not.toContain('"profile"');
  });

  it("is found below lists and alternatives, and replaces what was begun", () => {
    const text = '{"answer": {"stream": {"framing": "sse", "rules": [{"te|"}]}}}';
    const { from, texts } = offered(text);
    expect(texts).toEqual(expect.arrayContaining(['"text"', '"thought"', '"finish"', '"usage"']));
    expect(from).toBe(text.indexOf('"te|"'));
  });

  it("is the values of which there are few", () => {
    expect(offered('{"answer": {"stream": {"framing": "|"}}}').texts).toEqual(
      expect.arrayContaining(['"sse"', '"ndjson"', '"array"']),
    );
    expect(offered('{"answer": {"problem": {"codes": {"E-7": "|"}}}}').texts).toContain('"rate-limited"');
    expect(offered('{"shape": "|"}').texts).toEqual([]);
  });
});
