import { describe, expect, it } from "vitest";
import { withPictures } from "@/core/conversation/pieces";
import type { Guard } from "@/core/guards/guard";
import { readied } from "@/core/guards/looking";
import type { LastEvent, SaidEvent } from "@/core/reply/events";
import { compileProfile } from "@/core/wire/profile";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { Hearing } from "./hearing";

const made = { file: "f".repeat(64), type: "image/png", width: 4, height: 3, isMade: true } as const;

/** A hearing of events of one answer, of as many bytes at a time as are told, and what it says. */
function heard(
  events: readonly object[],
  {
    takes = 1,
    secrets = ["k-1234"],
    bytesAtOnce = 7,
    profile = chatCompletions as object,
    guards = [] as Guard[],
  } = {},
) {
  const said: [take: number, text: string][] = [];
  let leftOut = 0;
  const hearing = new Hearing({
    profile: compileProfile(profile),
    takes,
    round: 2,
    begun: 0,
    secrets,
    guards: readied(guards, ""),
    say: (take: number, event: SaidEvent) => said.push([take, "text" in event.data ? event.data.text : event.event]),
    keep: (bytes) => (bytes.length > 4 ? made : "This is no picture."),
    leaveOutBytes: () => {
      leftOut += 1;
    },
  });
  hearing.begin({ status: 200, contentType: "text/event-stream", headers: {}, streamed: true });
  const bytes = Buffer.from(events.map((event) => `data: ${JSON.stringify(event)}\n\n`).join(""));
  let last: LastEvent | undefined;
  for (let at = 0; at < bytes.length && !last; at += bytesAtOnce)
    last = hearing.feed(bytes.subarray(at, at + bytesAtOnce));
  last ??= hearing.close(true);
  hearing.release();
  const texts = said.reduce<string[]>((all, [take, text]) => {
    all[take] = (all[take] ?? "") + text;
    return all;
  }, []);
  return {
    hearing,
    texts,
    last,
    leftOut,
    takes: hearing.takes(last ?? { event: "end", data: { reason: "complete" } }),
  };
}

const choice = (index: number, delta: object, finish_reason: string | null = null) => ({
  choices: [{ index, delta, finish_reason }],
});
const call = (index: number, more: object) => ({ tool_calls: [{ index, ...more }] });

describe("the hearing of an answer", () => {
  it("gives each take its own words and its own calls, however the bytes are cut", () => {
    const events = [
      choice(0, { content: "Aye." }),
      choice(1, call(0, { id: "c1", function: { name: "fares", arguments: '{"to":' } })),
      choice(1, call(1, { id: "c2", function: { name: "tides", arguments: "" } })),
      choice(1, call(0, { function: { arguments: '"Brindle"}' } })),
      choice(0, {}, "stop"),
      choice(1, {}, "tool_calls"),
    ];
    for (const bytesAtOnce of [1, 5, 64, 10_000]) {
      const { takes, texts } = heard(events, { takes: 2, bytesAtOnce });
      expect(texts).toEqual(["Aye."]);
      expect(takes).toMatchObject([
        { text: "Aye.", calls: [], last: { data: { reason: "complete" } } },
        {
          text: "",
          calls: [
            { call: "c1", name: "fares", arguments: { to: "Brindle" } },
            { call: "c2", name: "tides", arguments: {} },
          ],
          last: { data: { reason: "tools" } },
        },
      ]);
    }
  });

  it("says no secret, not in pieces, not in what a tool is asked, and has the bytes left out", () => {
    const events = [
      choice(0, { content: "The key is k-" }),
      choice(0, { content: "1234, ok?" }),
      choice(0, call(0, { id: "c1", function: { name: "tell", arguments: '{"key":"k-1234"}' } })),
      choice(0, {}, "tool_calls"),
    ];
    const { texts, takes, leftOut } = heard(events);
    expect(texts).toEqual(["The key is ******, ok?"]);
    expect(JSON.stringify(takes)).not.toContain("k-1234");
    expect(leftOut).toBe(1);
  });

  it("says a picture in its place, and notes what is none", () => {
    const profile = {
      ...chatCompletions,
      answer: {
        ...chatCompletions.answer,
        stream: {
          ...chatCompletions.answer.stream,
          rules: [
            ...chatCompletions.answer.stream.rules,
            { pictures: { each: "$.choices[0].delta.images[*]", bytes: "@.url" } },
          ],
        },
      },
    };
    const url = (bytes: string) => `data:image/png;base64,${Buffer.from(bytes).toString("base64")}`;
    const { takes, hearing, last } = heard(
      [
        choice(0, { content: "Look:" }),
        choice(0, { images: [{ url: url("a whole picture") }, { url: url("no") }] }),
        choice(0, { content: " a boat." }, "stop"),
      ],
      { profile },
    );
    const picture = { kind: "picture", ...made };
    expect(withPictures(takes[0].text, takes[0].pictures)).toEqual([
      { kind: "text", text: "Look:" },
      picture,
      { kind: "text", text: " a boat." },
    ]);
    expect(hearing.notes).toEqual([{ kind: "no-picture", why: "This is no picture." }]);
    expect(last).toMatchObject({ event: "end" });
    // a picture alone is a reply
    const alone = heard([choice(0, { images: [{ url: url("a whole picture") }] }, "stop")], { profile });
    expect([alone.takes[0].pictures.length, alone.last]).toEqual([1, expect.objectContaining({ event: "end" })]);
  });

  it("hears nothing of takes that nobody asked for", () => {
    const { takes } = heard([choice(0, { content: "Aye." }), choice(7, { content: "Nay." }), choice(0, {}, "stop")]);
    expect(takes.map(({ text }) => text)).toEqual(["Aye."]);
  });

  it("ends a take that asks for more than is looked at as a problem", () => {
    const many = Array.from({ length: 40 }, (_, at) => choice(0, call(at, { id: `c${at}`, function: { name: "a" } })));
    const { takes } = heard([...many, choice(0, {}, "tool_calls")], { bytesAtOnce: 4_096 });
    expect(takes[0]).toMatchObject({ calls: [], last: { event: "problem", data: { kind: "bad-reply" } } });
  });
});
