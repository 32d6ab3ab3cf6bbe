import { describe, expect, it } from "vitest";
import { encode } from "../encode";
import { compileProfile } from "../profile";
import { canonicalCall, samples } from "../samples/samples";
import { markedAnswer, markedRequest, type Segment } from "./marks";

const utf8 = new TextDecoder();
const textOf = (segments: Segment[]) => segments.map(({ text }) => text).join("");
const marksOf = (segments: Segment[]) => segments.flatMap(({ text, mark }) => (mark ? [[mark.what, text]] : []));

describe.each(samples)("the marked texts of the shape $name", ({ name, profile, answer, events }) => {
  const compiled = compileProfile(profile);
  const call = canonicalCall(name, true);

  it("show the request that is really made", () => {
    const segments = markedRequest(compiled, call, "127.0.0.1");
    const [head, body] = textOf(segments).split("\n\n");
    const { path, body: sent } = encode(compiled, call);
    expect(head).toContain(` ${path}\n`);
    expect(JSON.parse(body ?? "null")).toEqual(JSON.parse(sent ?? "null"));
  });

  it("mark what the profile fills in and takes out", () => {
    const request = marksOf(markedRequest(compiled, call, "127.0.0.1")).map(([what]) => what);
    expect(request).toEqual(expect.arrayContaining(["model", "temperature", "output limit", "visitor", "app"]));
    const taken = marksOf(markedAnswer(compiled, utf8.decode(answer)));
    const marked = taken.map(([what]) => what);
    expect(marked.some((what) => what?.startsWith("text"))).toBe(true);
    if (events.some(({ event }) => event === "thought"))
      expect(marked.some((what) => what?.startsWith("thought"))).toBe(true);
    if (events.some(({ event }) => event === "counts"))
      expect(marked).toEqual(expect.arrayContaining(["usage in", "usage out"]));
  });
});

describe("a long stream", () => {
  it("is shown by some events of each kind and its end", () => {
    const chat = samples.find(({ name }) => name === "json-lines");
    const line = '{"lamp":"lantern-one","line":"boat ","out":false}\n';
    const segments = markedAnswer(compileProfile(chat?.profile), `${line.repeat(50)}${utf8.decode(chat?.answer)}`);
    expect(textOf(segments)).toMatch(/… 51 more\n.*burnt down/s);
    expect(marksOf(segments).at(-1)).toEqual(["usage out", "13"]);
  });
});
