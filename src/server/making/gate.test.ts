import { describe, expect, it } from "vitest";
import { Gate } from "./gate";

const never = new AbortController().signal;

describe("the gate of a provider", () => {
  it("lets so many in at once, and the others in their order as one leaves", async () => {
    const gate = new Gate();
    const waited: number[] = [];
    const inside: number[] = [];
    const leaves: (() => void)[] = [];
    const enter = async (each: number) => {
      const leave = await gate.enter("p", 2, () => waited.push(each), never);
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

  it("hands no place to one that waits no more", async () => {
    const gate = new Gate();
    const leave = await gate.enter("p", 1, () => {}, never);
    const stopped = new AbortController();
    const gone = gate.enter("p", 1, () => {}, stopped.signal);
    const next = gate.enter("p", 1, () => {}, never);
    stopped.abort();
    expect(await gone).toBeUndefined();
    leave?.();
    expect(await next).toBeTypeOf("function");
  });

  it("keeps nobody waiting where there is no limit, nor at another provider", async () => {
    const gate = new Gate();
    const waits = () => expect.unreachable();
    for (let each = 0; each < 50; each++) await gate.enter("p", null, waits, never);
    await gate.enter("q", 1, waits, never);
    await gate.enter("r", 1, waits, never);
  });
});
