import { describe, expect, it } from "vitest";
import { judge, readExpectation, tellJudged, writeExpectation } from "./expectations/expectations";
import { rubricsIn } from "./expectations/rubric";
import { enoughByHand, type Judgement, judgeQuestion, standingOf, type Verdict, verdictIn } from "./rubric";
import type { Seen } from "./seen";
import { outcomeOf } from "./trial";

const judgedWith = (text: string, judgement?: Judgement) => {
  const expectation = readExpectation(text);
  const seen = { judgements: judgement && { "is polite": judgement } } as unknown as Seen;
  const judged = judge({ line: 3, expectation }, seen);
  return { judged, told: tellJudged(expectation, judged) };
};

describe("an expectation by a rubric", () => {
  it("is read and written as it stands, and can be negated", () => {
    for (const text of ['meets "is polite"', 'does not meet "promises a refund"'])
      expect(writeExpectation(readExpectation(text))).toBe(text);
    expect(() => readExpectation("meets")).toThrow(/rubric is missing/);
    expect(() => readExpectation(`meets "${"a".repeat(1001)}"`)).toThrow(/longer than/);
    const expected = ['meets "a"', 'does not meet "b"', 'meets "a"', 'says "c"'].map((text) => ({
      expectation: readExpectation(text),
    }));
    expect(rubricsIn(expected)).toEqual(["a", "b"]);
  });

  it("holds or breaks by a judge who counts", () => {
    const meets: Judgement = { verdict: "meets", words: "Yes: it thanks.", counts: true };
    expect(judgedWith('meets "is polite"', meets).judged).toMatchObject({ outcome: "held" });
    expect(judgedWith('does not meet "is polite"', meets)).toMatchObject({
      judged: { outcome: "broke" },
      told: "meets it: Yes: it thanks.",
    });
  });

  it("is an opinion by any other judge, which says nothing about the trial", () => {
    const { judged, told } = judgedWith('meets "is polite"', { verdict: "misses", words: "No.", counts: false });
    expect(judged).toMatchObject({ outcome: "silent", isOpinion: true });
    expect(told).toBe("in the judge's opinion misses it: No.");
    expect(outcomeOf([judged, { outcome: "held" }], false)).toBe("held");
    expect(outcomeOf([judged, { outcome: "broke" }], false)).toBe("broke");
  });

  it("is silent where there is no judge, or a judge who counts gave no verdict", () => {
    expect(judgedWith('meets "is polite"').told).toBe("was not judged: no judge is chosen");
    const { judged } = judgedWith('meets "is polite"', { verdict: null, words: "Hm.", counts: true });
    expect(judged.isOpinion).toBeUndefined();
    expect(outcomeOf([judged], false)).toBe("silent");
  });
});

describe("a judge", () => {
  it.each([
    ["Yes: it thanks.", "meets"],
    ["**No**, it does not.", "misses"],
    ["“Yes.”", "meets"],
    ["Not at all.", undefined],
    ["", undefined],
  ])("says in %j: %s", (words, verdict) => expect(verdictIn(words)).toBe(verdict));

  it("is asked of the rubric, the message and the reply, each under its head", () => {
    expect(judgeQuestion("is polite", "Hello", "Aye.")).toBe(
      "The rubric:\nis polite\n\nWhat the visitor said:\nHello\n\nThe reply:\nAye.",
    );
    expect(judgeQuestion("is polite", "", "Aye.")).toBe("The rubric:\nis polite\n\nThe reply:\nAye.");
  });

  it("counts once it agrees with thirty of each kind, and not by one kind alone", () => {
    const judged = (byHand: Verdict, of: number, wrong = 0) =>
      Array.from({ length: of }, (_, at) => ({
        byHand,
        verdict: at < wrong ? (byHand === "meets" ? ("misses" as const) : ("meets" as const)) : byHand,
      }));
    const counts = (...all: ReturnType<typeof judged>[]) => standingOf(all.flat()).counts;
    expect(counts(judged("meets", enoughByHand), judged("misses", enoughByHand))).toBe(true);
    expect(counts(judged("meets", enoughByHand, 2), judged("misses", enoughByHand, 2))).toBe(true);
    expect(counts(judged("meets", enoughByHand, 3), judged("misses", enoughByHand))).toBe(false);
    expect(counts(judged("meets", 300), judged("misses", enoughByHand - 1))).toBe(false);
    // one that always says yes
    expect(counts(judged("meets", enoughByHand), judged("misses", enoughByHand, enoughByHand))).toBe(false);
    const { meets } = standingOf(judged("meets", 30, 1));
    expect([meets.agreed, meets.of, meets.low.toFixed(2)]).toEqual([29, 30, "0.83"]);
    expect(standingOf([{ byHand: "meets", verdict: null }]).meets).toMatchObject({ agreed: 0, of: 1 });
  });
});
