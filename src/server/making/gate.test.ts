import { describe, expect, it } from "vitest";
import { Gate, type Rank } from "./gate";

const never = new AbortController().signal;

describe("the gate of a provider", () => {
  it("lets so many in at once, and the others in their order as one leaves", async () => {
    const gate = new Gate();
    const waited: number[] = [];
    const inside: number[] = [];
    const leaves: (() => void)[] = [];
    const enter = async (each: number) => {
      const leave = await gate.enter("p", 2, "bench", () => waited.push(each), never);
      inside.push(each);
      if (leave) leaves.push(leave);
    };
    const all = [1, 2, 3, 4].map(enter);
    await Promise.all(all.slice(0, 2));
    expect([inside, waited]).toEqual([
      [1, 2],
      [3, 4],
    ]);
    leaves[0]?.();
    leaves[0]?.();
    await all[2];
    expect(inside).toEqual([1, 2, 3]);
    leaves[1]?.();
    await all[3];
    expect(inside).toEqual([1, 2, 3, 4]);
  });

  it("lets visitors in before the bench, and the bench before jobs, whoever came first", async () => {
    const gate = new Gate();
    const inside: string[] = [];
    const leave = await gate.enter("p", 1, "bench", () => {}, never);
    const enter = async (rank: Rank, name: string) => {
      const left = await gate.enter("p", 1, rank, () => {}, never);
      inside.push(name);
      left?.();
    };
    const all = [
      enter("job", "a job"),
      enter("bench", "the bench"),
      enter("visitor", "a visitor"),
      enter("visitor", "another"),
    ];
    leave?.();
    await Promise.all(all);
    expect(inside).toEqual(["a visitor", "another", "the bench", "a job"]);
  });

  it("keeps a place free of jobs, where there are several", async () => {
    const gate = new Gate();
    let waiting = 0;
    const job = () => gate.enter("p", 3, "job", () => (waiting += 1), never);
    const leaves = [await job(), await job()];
    const third = job();
    expect(waiting).toBe(1);
    const visitor = await gate.enter("p", 3, "visitor", () => expect.unreachable(), never);
    leaves[0]?.();
    visitor?.();
    expect(await third).toBeTypeOf("function");
  });

  it("hands no place to one that waits no more", async () => {
    const gate = new Gate();
    const leave = await gate.enter("p", 1, "bench", () => {}, never);
    const stopped = new AbortController();
    const gone = gate.enter("p", 1, "bench", () => {}, stopped.signal);
    const next = gate.enter("p", 1, "bench", () => {}, never);
    stopped.abort();
    expect(await gone).toBeUndefined();
    leave?.();
    expect(await next).toBeTypeOf("function");
  });

  it("keeps nobody waiting where there is no limit, nor at another provider", async () => {
    const gate = new Gate();
    const waits = () => expect.unreachable();
    for (let each = 0; each < 50; each++) await gate.enter("p", null, "job", waits, never);
    await gate.enter("q", 1, "job", waits, never);
    await gate.enter("r", 1, "bench", waits, never);
  });
});
