import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Guard } from "./guard";
import { GuardedText } from "./guarded-text";
import { foundIn, readied, united } from "./looking";
import { harmless } from "./test/harmless";
import { shown } from "./test/parts";

const prompt =
  "You are the desk of Saltmarsh Ferry. Never tell anybody that the skipper's cabin key hangs behind the tide table.";

const rules = [
  shown({ kind: "words", words: ["moonbeam", "brass lantern"] }),
  shown({ kind: "pattern", pattern: String.raw`\bKEY-[A-Z]{3}\d{3,}` }),
  shown({ kind: "personal", kinds: ["e-mail", "phone", "card", "account"] }),
  shown({ kind: "prompt", words: 6 }),
];

/** Texts that a rule forbids, and what stands in their places. */
const forbidden: readonly [text: string, mark: string][] = [
  ["moonbeam", "[hidden]"],
  ["MoonBeam", "[hidden]"],
  ["móonbeam", "[hidden]"],
  ["moon\u00adbeam", "[hidden]"],
  ["brass\n lantern", "[hidden]"],
  ["KEY-ABC123", "[hidden]"],
  ["KEY-XYZ99887766", "[hidden]"],
  ["ann@saltmarsh.example", "[e-mail]"],
  ["tom.of-brindle+1@mail.quay.example", "[e-mail]"],
  ["+44 20 7946 0958", "[phone number]"],
  ["(555) 010-0199", "[phone number]"],
  ["4111 1111 1111 1111", "[card number]"],
  ["GB82 WEST 1234 5698 7654 32", "[account number]"],
  ["Skipper's cabin KEY hangs — behind the tide table", "[hidden]"],
];

/** Texts with something forbidden in them, and what is let through of each. */
const cases = Array.from({ length: 300 }, (_, at) => {
  const [text, mark] = forbidden[at % forbidden.length] as [string, string];
  const [other, otherMark] = forbidden[(at * 7 + 3) % forbidden.length] as [string, string];
  // a hint of each, which is allowed
  const near = [
    "moonbea",
    "a lantern of brass",
    "KEY-AB12",
    "ann@saltmarsh",
    "4111 1111 1111 1112",
    "behind the tide table",
  ];
  const plain = (harmless[(at * 3) % 500] as string).slice(0, 30).replace(/[\d.:€@-]+/g, "·");
  const along = near[at % near.length] as string;
  return {
    text: `${plain}; ${text}, ${along} 🛟 (${other}) end`,
    lets: `${plain}; ${mark}, ${along} 🛟 (${otherMark}) end`,
    without: [text, other],
  };
});

/** What is let through of a text that comes in parts, each part on its own. */
function through(guards: readonly Guard[], ...parts: string[]): { shown: string[]; whole: string; refusal?: string } {
  const guarded = new GuardedText(readied(guards, prompt));
  const all = [...parts.map((part) => guarded.feed(part)), guarded.close()];
  const refusal = all.find((each) => each.refusal !== undefined)?.refusal;
  return { shown: all.map(({ text }) => text), whole: all.map(({ text }) => text).join(""), refusal };
}

describe("guarded text", () => {
  test("300 texts, cut at every place: nothing forbidden is let through, and nothing allowed is lost", () => {
    for (const { text, lets, without } of cases) {
      expect(through(rules, text).whole).toBe(lets);
      for (let at = 1; at < text.length; at += 1) {
        const { whole } = through(rules, text.slice(0, at), text.slice(at));
        if (whole !== lets) expect(whole, `cut at ${at}`).toBe(lets);
      }
      for (const each of without) expect(lets).not.toContain(each);
      expect(through(rules, ...text.split("")).whole).toBe(lets);
    }
  }, 120_000);

  test("refuses at the same place, however the text was cut", () => {
    const refusing = rules.map((rule) => ({ ...rule, does: "refuse" as const, says: "Not that." }));
    for (const { text } of cases.slice(0, 60)) {
      const { whole, refusal } = through(refusing, text);
      expect(refusal).toBe("Not that.");
      expect(text.startsWith(whole)).toBe(true);
      for (let at = 1; at < text.length; at += 3)
        expect(through(refusing, text.slice(0, at), text.slice(at)).whole).toBe(whole);
    }
  }, 60_000);

  test("any text that nothing is forbidden in passes as it is, in any parts", () => {
    const safe = [shown({ kind: "words", words: ["zzqx"] }), shown({ kind: "personal", kinds: ["e-mail"] })];
    fc.assert(
      fc.property(fc.array(fc.string({ unit: "grapheme", maxLength: 20 })), (parts) => {
        const text = parts.join("").replaceAll("@", "");
        expect(through(safe, ...parts.map((part) => part.replaceAll("@", ""))).whole).toBe(text);
      }),
    );
  });

  test("covers all that any rule finds, and nothing else, in any parts", () => {
    const several = [
      shown({ kind: "words", words: ["ab", "b c"] }, "mask", { name: "1" }),
      shown({ kind: "pattern", pattern: "a+c" }, "mask", { name: "2" }),
      shown({ kind: "pattern", pattern: "c.?b|(?:ba)+$" }, "mask", { name: "3" }),
      shown({ kind: "prompt", words: 3 }, "mask", { name: "4" }),
    ];
    const own = "a b ca cb a c";
    const letters = fc.constantFrom("a", "b", "c", " ", "\n");
    fc.assert(
      fc.property(fc.array(fc.string({ unit: letters, maxLength: 6 }), { maxLength: 8 }), (parts) => {
        const text = parts.join("");
        const looks = readied(several, own).flatMap(({ begin }) => begin());
        const found = united(looks.flatMap(({ matcher }) => foundIn(text, matcher)));
        let expected = "";
        let from = 0;
        for (const stretch of found) {
          expected += `${text.slice(from, stretch.from)}[hidden]`;
          from = stretch.to;
        }
        const guarded = new GuardedText(readied(several, own));
        const whole = parts.map((part) => guarded.feed(part).text).join("") + guarded.close().text;
        expect(whole).toBe(expected + text.slice(from));
      }),
      { numRuns: 2_000 },
    );
  });

  test("lets go at once of what can be part of nothing", () => {
    const guarded = new GuardedText(readied([shown({ kind: "words", words: ["moonbeam"] })], prompt));
    expect(guarded.feed("The boat").text).toBe("The boat");
    expect(guarded.feed(" leaves at mo").text).toBe(" leaves at ");
    expect(guarded.feed("on").text).toBe("");
    expect(guarded.feed("day").text).toBe("moonday");
    expect(guarded.feed(" moonbeam").text).toBe(" ");
    expect(guarded.feed("s").text).toBe("moonbeams");
  });

  test("masks what has no end as soon as it is known, and what it goes on with", () => {
    const guarded = new GuardedText(readied([shown({ kind: "pattern", pattern: String.raw`token=\S+` })], prompt));
    expect(guarded.feed("my token").text).toBe("my ");
    expect(guarded.feed("=a").text).toBe("[hidden]");
    expect(guarded.feed("bcd".repeat(1_000)).text).toBe("");
    expect(guarded.feed(" is secret.").text).toBe(" is secret.");
    expect(guarded.close().text).toBe("");
    expect(guarded.caught).toEqual([{ guard: "pattern mask", on: "shown", does: "mask", what: "pattern", times: 1 }]);
  });

  test("what is only marked holds nothing back, and is counted", () => {
    const guarded = new GuardedText(readied([shown({ kind: "words", words: ["moonbeam"] }, "mark")], prompt));
    expect(guarded.feed("a moonb").text).toBe("a moonb");
    expect(guarded.feed("eam.").text).toBe("eam.");
    expect(guarded.isCut).toBe(false);
    expect(guarded.caught.map(({ does, times }) => [does, times])).toEqual([["mark", 1]]);
  });

  test("lets through what is excepted, and only where it is all that was found", () => {
    const rule = shown({ kind: "personal", kinds: ["e-mail"] }, "mask", { except: ["desk@saltmarsh.example"] });
    expect(through([rule], "Write to Desk@Saltmarsh.example or ann@saltmarsh.example.").whole).toBe(
      "Write to Desk@Saltmarsh.example or [e-mail].",
    );
    expect(through([rule], "desk@salt", "marsh.example.org").whole).toBe("[e-mail]");
  });

  test("knows what was said before it went on", () => {
    const guarded = new GuardedText(readied([shown({ kind: "words", words: ["moonbeam"] }, "refuse")], prompt));
    guarded.begin("All about the moon");
    expect(guarded.feed("beam, and more")).toEqual({ text: "", refusal: "I can't help with that here." });
    expect(guarded.feed("more")).toEqual({ text: "" });
  });

  test("of two that overlap both are covered, once", () => {
    const both = [
      shown({ kind: "words", words: ["lantern room"] }),
      shown({ kind: "pattern", pattern: "brass lantern" }),
    ];
    expect(through(both, "the brass lan", "tern room key").whole).toBe("the [hidden] key");
  });

  test("a prompt that is shorter than what would be repeated is found whole", () => {
    const guarded = new GuardedText(readied([shown({ kind: "prompt", words: 20 })], "Be brief and kind"));
    expect(guarded.feed("It says: be brief, and KIND.").text + guarded.close().text).toBe("It says: [hidden].");
  });
});
