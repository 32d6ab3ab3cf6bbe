import { describe, expect, it } from "vitest";
import { problem } from "@/core/problem/problem";
import { stepAfter } from "./retry";

const usual = { tries: 0, retries: 2, hasToken: false, chance: 0.5 };
const slowDown = (retryAfter?: number) => problem("rate-limited", "Slow down.", { retryAfter });

describe("what is done after a call that failed before any text", () => {
  it.each([
    ["waits as long as the provider says", slowDown(7), usual, { kind: "again", after: 7 }],
    ["waits half a second where it says nothing", problem("overloaded", "x"), usual, { kind: "again", after: 0.5 }],
    ["doubles the wait", problem("timed-out", "x"), { ...usual, tries: 1 }, { kind: "again", after: 1 }],
    ["spreads those that wait", problem("timed-out", "x"), { ...usual, chance: 1 }, { kind: "again", after: 0.625 }],
    ["gives up after the last try", problem("unreachable", "x"), { ...usual, tries: 2 }, { kind: "give-up" }],
    ["gives up where a minute is not enough", slowDown(61), usual, { kind: "give-up" }],
    ["gives up where no wait helps", problem("unknown-model", "x"), usual, { kind: "give-up" }],
    ["gives up over a key", problem("unauthorised", "x"), usual, { kind: "give-up" }],
    ["fetches another token, once", problem("unauthorised", "x"), { ...usual, hasToken: true }, { kind: "renew" }],
    [
      "does not fetch a third one",
      problem("unauthorised", "x"),
      { ...usual, hasToken: true, tries: 1 },
      { kind: "give-up" },
    ],
  ])("%s", (_what, failure, how, step) => {
    expect(stepAfter(failure, how)).toEqual(step);
  });
});
