import { readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { ReadEvent } from "../reply/events";
import { type AnswerHead, createDecoder } from "./decode";
import { encode } from "./encode";
import { type CompiledProfile, compileProfile } from "./profile";
import { profileJsonSchema } from "./profile-schema";
import { drawFrom, readMutated } from "./samples/mutated";
import { canonicalCall, samples } from "./samples/samples";

const shapes = samples.map((sample) => ({ ...sample, compiled: compileProfile(sample.profile) }));

function read(profile: CompiledProfile, head: AnswerHead, chunks: Iterable<Uint8Array>): ReadEvent[] {
  const decoder = createDecoder(profile, head);
  const events: ReadEvent[] = [];
  for (const chunk of chunks) events.push(...decoder.feed(chunk));
  return [...events, ...decoder.close()];
}

/** Events with neighbouring text joined, since plain text comes in the pieces in which its bytes do. */
function joined(events: ReadEvent[]): ReadEvent[] {
  const result: ReadEvent[] = [];
  for (const event of events) {
    const last = result.at(-1);
    if (last?.event === "text" && event.event === "text" && last.take === event.take)
      result[result.length - 1] = { ...last, data: { text: last.data.text + event.data.text } };
    else result.push(event);
  }
  return result;
}

describe.each(shapes)("the shape $name", ({ name, compiled, request, contentType, answer, events, failure }) => {
  const head = { status: 200, contentType };

  it("makes the request that its API expects", () => {
    const { body, ...encoded } = encode(compiled, canonicalCall(name, compiled.stream !== undefined));
    expect({ ...encoded, body: JSON.parse(body ?? "null") }).toEqual(request);
  });

  it("is read to the same events however its bytes are cut", () => {
    expect(read(compiled, head, [answer])).toEqual(events);
    expect(
      joined(
        read(
          compiled,
          head,
          Array.from(answer, (byte) => Uint8Array.of(byte)),
        ),
      ),
    ).toEqual(joined(events));
    fc.assert(
      fc.property(fc.array(fc.nat({ max: answer.length }), { maxLength: 30 }), (places) => {
        const at = [0, ...places.sort((a, b) => a - b), answer.length];
        const chunks = at.slice(1).map((end, i) => answer.subarray(at[i], end));
        expect(joined(read(compiled, head, chunks))).toEqual(joined(events));
      }),
    );
  });

  it("breaks off where the connection does", () => {
    const half = answer.subarray(0, Math.floor(answer.length / 2));
    const decoder = createDecoder(compiled, head);
    const last = [...decoder.feed(half), ...decoder.close(false)].at(-1);
    expect(last).toMatchObject({ event: "problem", data: { kind: "broken-off" } });
  });

  it("reports an error by its status, in the provider's words", () => {
    const [event] = read(compiled, { status: 401, contentType: "text/plain" }, [new TextEncoder().encode("go away")]);
    expect(event).toMatchObject({ data: { kind: "unauthorised", detail: expect.stringContaining("go away") } });
  });

  if (failure)
    it("reports an error inside of an answer that began well", () => {
      const { kind, body, contentType } = failure;
      const last = read(compiled, { status: 200, contentType }, [new TextEncoder().encode(body)]).at(-1);
      expect(last).toMatchObject({ event: "problem", data: { kind } });
    });

  it("says what it found where the answer is none of its own", () => {
    const page = new TextEncoder().encode("<h1>Welcome to the harbour</h1>");
    const [event] = read(compiled, { status: 200, contentType: "text/html" }, [page]);
    expect(event).toMatchObject({ data: { kind: "bad-reply", detail: expect.stringContaining("text/html") } });
  });
});

describe("the JSON Schema in the docs", () => {
  it("is the one that profiles are checked by", () => {
    const written = readFileSync(new URL("../../../docs/wire-profile.schema.json", import.meta.url), "utf8");
    expect(JSON.parse(written)).toEqual(JSON.parse(JSON.stringify(profileJsonSchema())));
  });
});

describe("any answer, whatever its bytes", () => {
  it("has an end or a named problem in 50,000 damaged streams, and nothing after it", () => {
    const ends = readMutated(50_000, drawFrom(7));
    // the streams were really damaged, and were not all damaged beyond reading
    for (const name of ["end", "bad-reply", "broken-off"]) expect(ends.get(name)).toBeGreaterThan(500);
  }, 120_000);
});
