import { beforeEach, describe, expect, it } from "vitest";
import type { BenchEvent } from "@/contract/replies";
import { textOf } from "@/core/conversation/pieces";
import type { NumberedEvent } from "@/core/reply/events";
import { emptyReply } from "@/core/reply/reply";
import { type Arrivals, LiveReplies } from "./live-replies";

let live: LiveReplies;
let reported: [string, Arrivals][] = [];

beforeEach(() => {
  reported = [];
  live = new LiveReplies((reply, arrivals) => reported.push([reply, arrivals]));
});

const head = (id: string) => ({ reply: id, conversation: "c", message: "m", revision: 1, provider: "p", model: "m" });
const begin = (id: string): NumberedEvent => ({ id: 1, event: "reply", data: head(id) });
const text = (id: number, words: string): NumberedEvent => ({ id, event: "text", data: { text: words } });
const end = (id: number): NumberedEvent => ({ id, event: "end", data: { reason: "complete" } });
const of = (reply: string, event: NumberedEvent, conversation = "c"): BenchEvent => ({ reply, conversation, event });
const said = (reply: string) => textOf(live.replyOf(reply)?.reply ?? emptyReply);

describe("the replies that arrive in a tab", () => {
  it("are folded as they come, and are the same object until something comes", () => {
    live.watch("c");
    live.hear(of("r", begin("r")));
    live.hear(of("r", text(2, "Half ")));
    const before = live.replyOf("r");
    expect(live.replyOf("r")).toBe(before);
    live.hear(of("r", text(3, "a reply")));
    expect(live.replyOf("r")).not.toBe(before);
    expect(live.replyOf("r")).toMatchObject({ cursor: 3, reply: { state: "arriving" } });
    expect(said("r")).toBe("Half a reply");
  });

  it("tell whoever listens to that one, and nobody else", () => {
    live.watch("c");
    const told: string[] = [];
    const leave = live.subscribe("r", () => told.push("r"));
    live.subscribe("other", () => told.push("other"));
    live.hear(of("r", begin("r")));
    leave();
    live.hear(of("r", text(2, "x")));
    expect(told).toEqual(["r"]);
  });

  it("that were read in the middle go on from there, with what came while they were read", () => {
    live.watch("c");
    live.hear(of("r", text(4, "second ")));
    live.hear(of("r", text(5, "third")));
    expect(live.replyOf("r")).toBeUndefined();
    live.put({ id: "r", cursor: 4, reply: { ...emptyReply, pieces: [{ kind: "text", text: "first second " }] } });
    expect(said("r")).toBe("first second third");
    live.hear(of("r", text(5, "third")));
    live.put({ id: "r", cursor: 3, reply: emptyReply });
    expect(said("r")).toBe("first second third");
  });

  it("of which an event is missing are read again, and nothing is folded over the hole", () => {
    live.watch("c");
    const again: string[] = [];
    live.onChange((conversation) => again.push(conversation));
    live.hear(of("r", begin("r")));
    live.hear(of("r", text(2, "first ")));
    live.hear(of("r", text(4, "third ")));
    live.hear(of("r", text(5, "fourth")));
    expect([said("r"), again]).toEqual(["first ", ["c"]]);
    live.put({ id: "r", cursor: 4, reply: { ...emptyReply, pieces: [{ kind: "text", text: "first second third " }] } });
    expect(said("r")).toBe("first second third fourth");
  });

  it("that were read before anything came go on from there", () => {
    live.watch("c");
    live.put({ id: "r", cursor: 2, reply: { ...emptyReply, pieces: [{ kind: "text", text: "first " }] } });
    live.hear(of("r", text(3, "second")));
    expect(said("r")).toBe("first second");
  });

  it("of conversations that nobody watches are not kept; their beginnings and ends are told", () => {
    const turns: string[] = [];
    live.onTurn(({ reply, event }) => turns.push(`${reply} ${event.event}`));
    for (let each = 0; each < 200; each++) {
      live.hear(of(`r${each}`, begin(`r${each}`), `c${each}`));
      live.hear(of(`r${each}`, text(2, "x".repeat(1_000)), `c${each}`));
      live.hear(of(`r${each}`, end(3), `c${each}`));
    }
    expect([live.size, turns.length, turns[1]]).toEqual([0, 400, "r0 end"]);
  });

  it("are let go of when the last view leaves, or when they have ended and were read", () => {
    const [one, other] = [live.watch("c"), live.watch("c")];
    live.hear(of("a", begin("a")));
    live.hear(of("b", begin("b")));
    live.forget("a");
    expect(live.size).toBe(2);
    live.hear(of("a", end(2)));
    live.forget("a");
    one();
    expect(live.size).toBe(1);
    other();
    expect(live.size).toBe(0);
  });

  it("that are asked for here are kept though they begin before it is known which they are", async () => {
    const accepted = await live.ask(async () => {
      live.hear(of("mine", begin("mine"), "new"), 100);
      live.hear(of("mine", text(2, "Aye"), "new"), 130);
      live.hear(of("other", begin("other"), "elsewhere"));
      return { reply: "mine", conversation: "new" };
    });
    live.watch(accepted.conversation);
    live.hear(of("mine", text(3, ", it runs."), "new"), 190);
    expect([said("mine"), live.size]).toEqual(["Aye, it runs.", 1]);
    live.hear(of("mine", end(4), "new"), 200);
    expect(reported).toEqual([
      [
        "mine",
        [
          [30, 3],
          [90, 10],
        ],
      ],
    ]);
  });

  it("report when they arrived only where they were asked for here, also when they ended at once", async () => {
    live.watch("c");
    live.hear(of("other", begin("other")), 0);
    live.hear(of("other", text(2, "x")), 1);
    live.hear(of("other", end(3)), 2);
    expect(reported).toEqual([]);
    await live.ask(async () => {
      live.hear(of("mine", begin("mine")), 0);
      live.hear(of("mine", text(2, "x")), 5);
      live.hear(of("mine", end(3)), 6);
      return { reply: "mine", conversation: "c" };
    });
    expect(reported).toEqual([["mine", [[5, 1]]]]);
  });

  it("are kept no longer where asking fails", async () => {
    await expect(
      live.ask(async () => {
        live.hear(of("r", begin("r"), "new"));
        throw new Error("refused");
      }),
    ).rejects.toThrow("refused");
    expect(live.size).toBe(0);
  });
});
