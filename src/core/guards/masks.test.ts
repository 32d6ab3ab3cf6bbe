import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { WireMessage } from "../wire/message";
import { readied } from "./looking";
import { Masks } from "./masks";
import { sent } from "./test/parts";

const personal = sent({ kind: "personal", kinds: ["e-mail", "phone"] }, "mask", { putsBack: true });

function masks(own: string[] = [], guards = [personal]): Masks {
  return new Masks(readied(guards, ""), own);
}

const said = (role: WireMessage["role"], text: string): WireMessage => ({ role, pieces: [{ kind: "text", text }] });

describe("masks", () => {
  test("give the same text the same mark in all messages, calls of tools included", () => {
    const tool = {
      kind: "tool",
      round: 1,
      call: "c1",
      name: "book",
      arguments: { to: "ann@quay.example" },
      outcome: "answered",
      result: "Sent to tom@quay.example",
    } as const;
    const { pieces } = { pieces: [tool] };
    expect(
      masks().messages([
        said("visitor", "I'm ann@quay.example, not tom@quay.example"),
        { role: "app", pieces },
        said("visitor", "ann@quay.example again, or +44 20 7946 0958"),
      ]),
    ).toEqual([
      said("visitor", "I'm [e-mail #1], not [e-mail #2]"),
      { role: "app", pieces: [{ ...tool, arguments: { to: "[e-mail #1]" }, result: "Sent to [e-mail #2]" }] },
      said("visitor", "[e-mail #1] again, or [phone number #1]"),
    ]);
  });

  test("leave what stands in the app's own words", () => {
    const own = masks(["Passengers write to Desk@quay.example."]);
    expect(own.text("desk@quay.example or ann@quay.example")).toBe("desk@quay.example or [e-mail #1]");
  });

  test("are put back in a text that comes in any parts", () => {
    fc.assert(
      fc.property(fc.array(fc.nat(40), { maxLength: 6 }), (cuts) => {
        const each = masks();
        each.text("ann@quay.example and +44 20 7946 0958");
        const reply = "Yes, [e-mail #1], I'll call [phone number #1], not [e-mail #2] or [e-mail #1";
        const back = each.back();
        const at = [...cuts].sort((a, b) => a - b);
        const parts = [...at, reply.length].map((to, index) => reply.slice(at[index - 1] ?? 0, to));
        const whole = parts.map((part) => back.feed(part)).join("") + back.close();
        expect(whole).toBe("Yes, ann@quay.example, I'll call +44 20 7946 0958, not [e-mail #2] or [e-mail #1");
      }),
    );
  });

  test("are put back where the rule wants it, and else stay", () => {
    const each = masks([], [sent({ kind: "words", words: ["moonbeam"] })]);
    expect(each.text("a moonbeam, Moonbeam")).toBe("a [hidden #1], [hidden #2]");
    expect(each.putBack("[hidden #1]")).toBe("[hidden #1]");
    expect(each.isPutBack("moonbeam")).toBe(false);
  });

  test("count what is caught by kind, and tell nothing of it", () => {
    expect(masks().caughtIn("ann@quay.example, tom@quay.example, +44 20 7946 0958")).toEqual([
      { guard: "personal mask", on: "sent", does: "mask", what: "e-mail", times: 2 },
      { guard: "personal mask", on: "sent", does: "mask", what: "phone", times: 1 },
    ]);
  });

  test("mask the rest of what overlaps", () => {
    const two = [sent({ kind: "words", words: ["brass lantern"] }), sent({ kind: "pattern", pattern: "lantern room" })];
    const each = masks([], two);
    expect(each.text("the brass lantern room")).toBe("the [hidden #1][hidden #2]");
  });
});
