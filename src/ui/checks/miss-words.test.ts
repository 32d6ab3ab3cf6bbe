import { describe, expect, it } from "vitest";
import type { Miss } from "@/contract/checks";
import { readExpectation } from "@/core/checks/expectations/expectations";
import type { Content } from "@/core/revision/content";
import { lacks, neededWords, sawWords } from "./miss-words";

const base: Content = {
  prompt: "You are Quay Desk. Answer in at most five sentences.",
  variables: {},
  provider: "reedbed",
  model: "reed-deep",
  settings: {},
  memory: { kind: "everything" },
};
const sent = { turn: 1, isSent: false, reason: { kind: "older-turns", most: 2 } };
const missOf = (judged: object, problem?: object) =>
  ({
    trial: "tri_1",
    number: 1,
    text: "",
    making: null,
    problem,
    judged: { line: 3, outcome: "broke", saw: {}, ...judged },
  }) as unknown as Miss;

describe("what broke", () => {
  it("is told by what was seen, or by why there was nothing to judge", () => {
    const short = readExpectation("at most 5 sentences");
    expect(sawWords(missOf({ saw: { length: 8, said: "A. B." } }), short)).toBe('it said 8 sentences: "A. B."');
    const away = missOf({ outcome: "silent", saw: null }, { detail: "Reedbed did not answer." });
    expect(sawWords(away, short)).toBe("nothing to judge: Reedbed did not answer.");
  });

  it("says which of two faults it was", () => {
    expect(neededWords(missOf({}))).toBeUndefined();
    expect(neededWords(missOf({ needed: { kind: "not-used", need: "9:40", turn: null } }))).toEqual({
      isSent: true,
      need: "9:40",
      where: "the prompt says it",
    });
    expect(neededWords(missOf({ needed: { kind: "not-used", need: "9:40", turn: 2 } }))?.where).toBe("turn 2 says it");
    expect(neededWords(missOf({ needed: { kind: "not-sent", need: "9:40", turn: 1, sent } }))).toMatchObject({
      isSent: false,
      where: expect.stringMatching(/^turn 1 says it, /),
    });
  });

  it("says what the prompt lacks, the nearest first, and what else is other", () => {
    const draft: Content = { ...base, prompt: "You are Quay Desk.", model: "reed-swift", memory: { kind: "nothing" } };
    const short = readExpectation("at most 5 sentences");
    const lacking = lacks(base, draft, missOf({}), short, (slug) => slug);
    expect(lacking.sentences).toEqual(["Answer in at most five sentences."]);
    expect(lacking.changes.join("; ")).toMatch(/model: .*reed-deep.* → .*reed-swift/);
    // what was not sent is the memory's doing alone
    const notSent = lacks(
      base,
      draft,
      missOf({ needed: { kind: "not-sent", need: "9:40", turn: 1, sent } }),
      readExpectation("states 9:40"),
      (slug) => slug,
    );
    expect(notSent.sentences).toEqual([]);
    expect(notSent.changes).toEqual([expect.stringMatching(/^memory: /)]);
  });
});
