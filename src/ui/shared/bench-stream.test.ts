import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { NumberedEvent } from "@/core/reply/events";
import { BenchStream } from "./bench-stream";
import { LiveReplies } from "./live-replies";

/** A stream that a test speaks through, as a browser's does. */
class Spoken extends EventTarget {
  readonly CLOSED = 2;
  readyState = 1;
  onopen = () => {};
  onerror = () => {};
  onmessage = (_event: object) => {};

  say(position: number, event: NumberedEvent, reply = "r"): void {
    this.onmessage({ lastEventId: String(position), data: JSON.stringify({ reply, conversation: "c", event }) });
  }

  tell(name: string, lastEventId = ""): void {
    this.dispatchEvent(Object.assign(new Event(name), { data: "{}", lastEventId }));
  }
}

let made: Spoken[] = [];
let missed = 0;
let stream: BenchStream;
const begun: NumberedEvent = {
  id: 1,
  event: "reply",
  data: { reply: "r", conversation: "c", message: "m", revision: 1, provider: "p", model: "m" },
};
const text = (id: number): NumberedEvent => ({ id, event: "text", data: { text: "x" } });

afterEach(() => {
  vi.useRealTimers();
});
beforeEach(() => {
  vi.useFakeTimers();
  made = [];
  missed = 0;
  const live = new LiveReplies(() => {});
  live.watch("c");
  stream = new BenchStream(() => {
    made.push(new Spoken());
    return made.at(-1) as unknown as EventSource;
  }, live);
  stream.open(() => {
    missed += 1;
  });
  made[0]?.onopen();
});

it("what was read is read again where a position is missing, and not where they follow one another", () => {
  const [source] = made;
  source?.say(7, begun);
  source?.say(8, text(2));
  expect(missed).toBe(1);
  source?.say(12, text(6));
  expect(missed).toBe(2);
  source?.say(13, text(7));
  source?.tell("behind", "40");
  source?.say(41, text(30));
  expect(missed).toBe(3);
});

it("a stream that the browser gives up on is said, and begun anew", () => {
  const [source] = made as [Spoken];
  source.onerror();
  expect([stream.isHeard, made.length]).toEqual([false, 1]);
  source.onopen();
  expect(stream.isHeard).toBe(true);
  source.readyState = source.CLOSED;
  source.onerror();
  vi.advanceTimersByTime(1_000);
  expect([stream.isHeard, made.length]).toEqual([false, 2]);
  made[1]?.onopen();
  made[1]?.say(90, begun);
  expect([stream.isHeard, missed]).toEqual([true, 3]);
});
