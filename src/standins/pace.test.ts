import { describe, expect, it } from "vitest";
import { Plan, planFrom } from "./faults/plan";
import { instant, paced } from "./pace";

const parts = ["The ", "9:40 ", "runs."];

describe("pacing", () => {
  it("says every part in order, at once where it is instant", async () => {
    const said: string[] = [];
    await paced(
      parts,
      instant,
      () => 0.5,
      new AbortController().signal,
      (part, at) => said.push(`${at} ${part}`),
    );
    expect(said).toEqual(["0 The ", "1 9:40 ", "2 runs."]);
  });

  it("takes as long as the pace says, jitter and all", async () => {
    const started = performance.now();
    await paced(
      parts,
      { firstMs: 40, tokensPerSecond: 50 },
      () => 0.5,
      new AbortController().signal,
      () => {},
    );
    expect(performance.now() - started).toBeGreaterThanOrEqual(75);
  });

  it("says the rest at once when it is hurried", async () => {
    const hurry = new AbortController();
    const said: string[] = [];
    await paced(
      parts,
      { firstMs: 0, tokensPerSecond: 0.01 },
      () => 0.5,
      new AbortController().signal,
      (part) => {
        said.push(part);
        hurry.abort();
      },
      performance.now(),
      hurry.signal,
    );
    expect(said).toEqual(parts);
  });

  it("stops where it is when the caller is gone", async () => {
    const gone = new AbortController();
    const said: string[] = [];
    const pacing = paced(
      parts,
      { firstMs: 0, tokensPerSecond: 100 },
      () => 0.5,
      gone.signal,
      (part) => {
        said.push(part);
        gone.abort();
      },
    );
    await expect(pacing).rejects.toThrow();
    expect(said).toEqual(["The "]);
  });
});

describe("a fault plan", () => {
  it.each([
    [{ fault: "dropped", after: 3, calls: 1 }],
    [{ fault: "slow-start", ms: 200 }],
    [{ fault: "status", status: 429, retryAfter: 2 }],
    [{ fault: "held-back" }],
  ])("may be %j", (plan) => {
    expect(planFrom(plan)).toEqual(plan);
  });

  it.each([
    [null, "a plan is an object"],
    [{}, expect.stringContaining("fault is one of slow-start, slow-drip, stalled")],
    [{ fault: "dropped" }, 'dropped needs a number in "after"'],
    [{ fault: "empty", calls: 0 }, "calls is a number from 1"],
  ])("%j is refused with the reason", (plan, reason) => {
    expect(planFrom(plan)).toEqual(reason);
  });

  it("counts down, and without a count stays until it is taken back", () => {
    const faults = new Plan();
    faults.set({ fault: "empty", calls: 2 });
    expect([faults.next()?.says, faults.next()?.says, faults.next()?.says]).toEqual([
      "says nothing",
      "says nothing",
      undefined,
    ]);
    faults.set({ fault: "empty" });
    expect([faults.next()?.says, faults.next()?.says]).toEqual(["says nothing", "says nothing"]);
    faults.set(undefined);
    expect(faults.next()).toBeUndefined();
  });
});
