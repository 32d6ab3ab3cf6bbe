import { describe, expect, it } from "vitest";
import { problem } from "@/core/problem/problem";
import type { RecordedAnswer } from "@/core/recordings/recording";
import type { Listener } from "./exchange";
import { play, Recorder } from "./traffic";

/** A listener that notes what it is told, and when it was over. */
function noting() {
  const told: unknown[] = [];
  let over = () => {};
  const ended = new Promise<void>((resolve) => {
    over = resolve;
  });
  const listener: Listener = {
    head: ({ status, contentType, retryAfter }) => told.push([status, contentType, retryAfter]),
    bytes: (bytes) => told.push(bytes.toString("utf8")),
    close(isWhole) {
      told.push(isWhole ? "whole" : "broken");
      over();
    },
    fail({ kind }) {
      told.push(kind);
      over();
    },
  };
  return { told, ended, listener };
}

const head = {
  status: 200,
  contentType: "text/event-stream",
  headers: { "content-type": "text/event-stream", "x-pass": "key-123456", "set-cookie": "session=1", date: "now" },
};

/** What a recorder keeps of what is done to it. */
function recorded(does: (recorder: Recorder) => void) {
  const kept: RecordedAnswer[] = [];
  const { told, listener } = noting();
  does(new Recorder(listener, ["key-123456"], (answer) => kept.push(answer)));
  return { kept, told };
}

describe("an answer is recorded", () => {
  it("as it comes, without secrets and without what makes a session of it, and told on as it is", () => {
    const { kept, told } = recorded((recorder) => {
      recorder.head(head);
      recorder.bytes(Buffer.from("data: Aye"));
      recorder.bytes(Buffer.from([0xe2, 0x82]));
      recorder.close(true);
    });
    expect(kept).toHaveLength(1);
    expect(kept[0]).toMatchObject({
      status: 200,
      parts: [
        [expect.any(Number), "data: Aye"],
        [expect.any(Number), { base64: "4oI=" }],
      ],
      end: "whole",
    });
    expect(Object.keys(kept[0]?.headers ?? {})).toEqual(["content-type", "x-pass"]);
    expect(JSON.stringify(kept)).not.toContain("key-123456");
    expect(told).toHaveLength(4);
  });

  it("with how it ended: broken off, failed before anything came, or left once all was said", () => {
    const end = (does: (recorder: Recorder) => void) => recorded(does).kept.map((each) => each.end);
    expect(end((recorder) => recorder.close(false))).toEqual(["broken"]);
    expect(end((recorder) => recorder.fail(problem("timed-out", "It fell silent after key-123456.")))).toMatchObject([
      { kind: "timed-out", detail: expect.not.stringContaining("123456") },
    ]);
    expect(
      end((recorder) => {
        recorder.head(head);
        recorder.leave();
        recorder.close(false);
      }),
    ).toEqual(["whole"]);
  });

  it("not where it was stopped, nor where it is larger than anyone would keep", () => {
    const stopped = recorded((recorder) => {
      recorder.head(head);
      recorder.drop();
      recorder.close(true);
    });
    const large = recorded((recorder) => {
      for (let at = 0; at < 9; at += 1) recorder.bytes(Buffer.alloc(1024 * 1024));
      recorder.close(true);
    });
    expect([stopped.kept, large.kept]).toEqual([[], []]);
  });
});

describe("an answer is played", () => {
  const answer: RecordedAnswer = {
    status: 429,
    headers: { "content-type": "text/plain", "retry-after": "7" },
    parts: [
      [3, "Slow "],
      [60_000, { base64: "ZG93bg==" }],
    ],
    end: "whole",
  };

  it("at once, with its head read as that of one that comes", async () => {
    const { told, ended, listener } = noting();
    play(answer, "at-once", listener);
    expect(told).toEqual([]);
    await ended;
    expect(told).toEqual([[429, "text/plain", 7], "Slow ", "down", "whole"]);
  });

  it("as long as it took, where that is wanted, and no further once it is stopped", async () => {
    const { told, listener } = noting();
    const exchange = play(answer, "as-recorded", listener);
    await expect.poll(() => told.length).toBe(2);
    await exchange.abort();
    expect(told).toEqual([[429, "text/plain", 7], "Slow "]);
  });

  it("to the failure that it ended with, without a head where none came", async () => {
    const { told, ended, listener } = noting();
    const end = problem("unreachable", "Nothing listens there.");
    play({ status: null, headers: {}, parts: [], end }, "at-once", listener);
    await ended;
    expect(told).toEqual(["unreachable"]);
  });
});
