import { describe, expect, it } from "vitest";
import { fit } from "../fitting/fit";
import { compileProfile } from "../profile";
import { apis } from "../samples/apis";
import { traits } from "../samples/traits";
import type { Segment } from "./marks";
import { pastedAnswer, pastedRequest } from "./pasted";

function shown(request: string, answer: string, answers: Record<string, string> = {}) {
  const result = fit({ request, answer, answers });
  if (result.kind === "none") throw new Error(result.why);
  const { fitting } = result;
  return {
    request: pastedRequest(request, fitting),
    answer: pastedAnswer(answer, compileProfile(fitting.profile), fitting),
    fitting,
  };
}

const textOf = (segments: Segment[]) => segments.map(({ text }) => text).join("");
/** What stands under a text: as what it was taken, and how sure that is. */
const under = (segments: Segment[], text: string) => {
  const found = segments.find((each) => each.text === text);
  return found && [found.mark?.what, found.place?.standing];
};

describe("a pasted text, part by part", () => {
  const command = `curl 'https://any.test/v1/say?pass=$ANY_KEY' -H 'x-area: $AREA' -d '${JSON.stringify({
    model: "reed-9",
    tone: "m-1",
    said: [{ who: "user", line: "Hello" }],
    shape: "x",
    bounds: { hum: 0.3 },
  })}'`;
  const answer =
    'data: {"word":"Mill","at":"2026-01-01"}\n\ndata: {"word":" Quay","at":"2026-01-01"}\n\ndata: {"word":"","why":"moored","used":{"in":3,"out":2}}\n\n';
  const { request, answer: read } = shown(command, answer);

  it("says of each part of the request what it was taken for", () => {
    expect(under(request, "$ANY_KEY")).toEqual(["key", "sure"]);
    expect(under(request, "$AREA")).toEqual(["value", "sure"]);
    expect(under(request, '"reed-9"')).toEqual(["model", "sure"]);
    expect(under(request, '"Hello"')).toEqual(["text", "sure"]);
    expect(under(request, "0.3")).toEqual(["temperature", "likely"]);
    expect(under(request, '"x"')).toEqual([undefined, "nothing"]);
  });

  it("says of each part of the answer what it was taken for, and what is asked", () => {
    expect(under(read, '"Mill"')).toEqual(["text", "sure"]);
    expect(under(read, '"2026-01-01"')).toEqual([undefined, "nothing"]);
    expect(under(read, '"moored"')).toEqual(["end: no word for it", "asked"]);
    expect(under(read, "3")).toEqual(["usage in", "sure"]);
  });

  it("can be pointed at: what is said of a place is what is found there", () => {
    const place = read.find(({ text }) => text === '"2026-01-01"')?.place;
    const { fitting } = shown(command, answer, { [`in the answer ${place?.where}`]: "text" });
    expect(fitting.reading.map((each) => (each.event === "text" ? each.data.text : "")).join("")).toBe(
      "2026-01-012026-01-01",
    );
  });

  it.each([...apis, ...traits].map((each) => [each.trait, each] as const))(
    "loses and adds nothing: %s",
    (_trait, api) => {
      const { request, answer, fitting } = shown(api.command, api.answer, api.says);
      const body = /\n\n([{[][\s\S]*)$/.exec(textOf(request))?.[1];
      if (body !== undefined) expect(JSON.parse(body)).toEqual(expect.anything());
      expect(textOf(request)).toMatch(/^(?:POST|GET|PUT) /);
      // each place has a standing, and what was found is marked somewhere
      for (const { place } of [...request, ...answer].filter((each) => each.place))
        expect(place?.where).toMatch(/^(?:\$|the |\?|[\w-]+$)/);
      if (fitting.findings.some(({ what }) => what.startsWith("text") || what === "framing"))
        expect(answer.length).toBeGreaterThan(0);
    },
  );
});
