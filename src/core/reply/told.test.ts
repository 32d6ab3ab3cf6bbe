import { describe, expect, it } from "vitest";
import { type Told, toldAll, toldEvent, toldEventSchema, toldSpeaker, toldUsage } from "./told";

const nothing: Told = { thoughts: false, counts: false, price: false, model: false, tools: false };
const usage = { input: 40, output: 5, thought: 2, estimated: false, price: 0.002, currency: "EUR" };
const head = {
  reply: "msg_2",
  conversation: "cnv_1",
  message: "msg_1",
  revision: 3,
  provider: "Reedbed",
  model: "reed-swift",
};

describe("what a caller is told", () => {
  it("is all of it, or only what the developer shows", () => {
    expect(toldUsage(usage, toldAll)).toEqual(usage);
    expect(toldUsage(usage, { ...nothing, counts: true })).toEqual({
      input: 40,
      output: 5,
      thought: 2,
      estimated: false,
    });
    expect(toldUsage(usage, { ...nothing, price: true })).toEqual({ price: 0.002, currency: "EUR", estimated: false });
    expect(toldUsage(usage, nothing)).toBeUndefined();
  });

  it("names no provider and no model where that is not told", () => {
    expect(toldSpeaker(head, toldAll)).toEqual(head);
    expect(Object.keys(toldSpeaker(head, nothing))).toEqual(["reply", "conversation", "message", "revision"]);
    const attempt = { provider: "Saltpan", model: "pan-clear", attempt: 2, after: 1, because: {} };
    expect(toldEvent({ event: "attempt", data: attempt } as never, nothing)).toEqual({
      attempt: 2,
      after: 1,
      because: {},
    });
  });

  it.each([
    [{ event: "thought", data: { text: "Hm." } }, undefined],
    [{ event: "text", data: { text: "At 9:40." } }, { text: "At 9:40." }],
    [{ event: "end", data: { reason: "complete" } }, { reason: "complete" }],
    [{ event: "usage", data: usage }, undefined],
  ] as const)("of %j is %j where nothing beside the words is", (event, told) => {
    expect(toldEvent(event as never, nothing)).toEqual(told);
  });

  it("fits what the contract says of an event, whatever is left out", () => {
    for (const told of [toldAll, nothing]) {
      const data = toldEvent({ event: "reply", data: head }, told);
      expect(toldEventSchema.parse({ id: 1, event: "reply", data }).data).toEqual(data);
    }
  });
});
