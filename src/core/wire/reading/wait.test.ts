import { describe, expect, it } from "vitest";
import { waitIn } from "./wait";

const now = Date.parse("2026-06-01T08:00:00Z");

describe("how long a provider asks to wait", () => {
  it.each([
    [7, "s", 7],
    ["7", "s", 7],
    [" 2.5 ", "s", 2.5],
    [2_500, "ms", 2.5],
    ["2", "min", 120],
    ["250ms", "s", 0.25],
    ["6m0s", "s", 360],
    ["1h2m3.5s", "ms", 3_723.5],
    ["12s", "min", 12],
    ["PT1M30S", "s", 90],
    ["P1D", "s", 86_400],
    // the three forms that a date of HTTP may have
    ["Mon, 01 Jun 2026 08:00:20 GMT", "s", 20],
    ["Monday, 01-Jun-26 08:00:20 GMT", "s", 20],
    ["Mon Jun  1 08:00:20 2026", "s", 20],
    ["2026-06-01T08:01:00Z", "s", 60],
    ["2026-06-01T10:01:00+02:00", "ms", 60],
    [now / 1_000 + 30, "epoch", 30],
    [now + 30_000, "epoch", 30],
    ["Mon, 01 Jun 2026 07:00:00 GMT", "s", 0],
    [0, "s", 0],
    ["-3", "s", 0],
  ] as const)("%j in %s is %d seconds", (value, unit, seconds) => {
    expect(waitIn(value, unit, now)).toBe(seconds);
  });

  it.each([
    "",
    "soon",
    "1e9",
    "100000",
    "P400D",
    "Mon, 01 Jun 2031 08:00:00 GMT",
    "Mon, 99 Jun 2026 08:00:00 GMT",
    null,
    true,
    {},
    [3],
    Number.NaN,
    Number.POSITIVE_INFINITY,
  ])("%j is no wait that anybody keeps", (value) => {
    expect(waitIn(value, "s", now)).toBeUndefined();
  });
});
