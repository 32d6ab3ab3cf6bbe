import { setTimeout as rest } from "node:timers/promises";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import { Refusal } from "../ground/refusal";
import { Gate } from "../making/gate";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { doSteps, type StepsOf } from "./steps";

let { home, remove } = testFolder();
remove();
let job = "";
beforeEach(() => {
  ({ home, remove } = testFolder());
  const work: Work = { kind: "say-again", of: "con_1", through: "msg_1", opening: "a", revision: 1 };
  job = home.jobs.add(home.apps.make("A", plainContent, 1).id, work, null, 1).id;
});
afterEach(() => remove());

const never = new AbortController().signal;

/** Does the steps of the job, each of which is a number. */
function done(work: StepsOf<number>["work"], more: Partial<StepsOf<number>> = {}): Promise<void> {
  return doSteps<number>(home, { job, mostPrice: null, atOnce: 4, signal: never, work, tell: () => {}, ...more });
}

const upTo = (count: number) => Array.from({ length: count }, (_, at) => at + 1);

describe("the steps of a job", () => {
  it("are each done once, several at once, and tell how far it is and what it cost", async () => {
    home.steps.add(job, upTo(20));
    const began: number[] = [];
    let most = 0;
    let inside = 0;
    await done(async ({ work }) => {
      began.push(work);
      inside += 1;
      most = Math.max(most, inside);
      await rest(1);
      inside -= 1;
      return { price: work };
    });
    expect(began.toSorted((a, b) => a - b)).toEqual(upTo(20));
    expect(most).toBe(4);
    expect(home.jobs.byId(job)).toMatchObject({ done: 20, of: 20, price: 210 });
    await done(() => expect.unreachable());
  });

  it("go on one from the other where that is wanted", async () => {
    home.steps.add(job, upTo(5));
    const heard: string[] = [];
    await done(
      async ({ work }) => {
        heard.push(`begins ${work}`);
        await rest(1);
        heard.push(`ends ${work}`);
        return { price: 0 };
      },
      { atOnce: 1 },
    );
    expect(heard).toEqual(upTo(5).flatMap((each) => [`begins ${each}`, `ends ${each}`]));
  });

  it("that fail fail alone, and are not done again", async () => {
    home.steps.add(job, upTo(3));
    await done(async ({ work }) => {
      if (work === 2) throw new Refusal(problem("over-limit", "It is spent."));
      return { price: 1 };
    });
    expect(home.jobs.byId(job)).toMatchObject({ done: 3, price: 2 });
    await done(() => expect.unreachable());
  });

  it("are left where one that the next goes on from is refused, and it is said why", async () => {
    home.steps.add(job, upTo(3));
    const began: number[] = [];
    const work: StepsOf<number>["work"] = async ({ work }) => {
      began.push(work);
      if (work === 2) throw new Refusal(problem("misconfigured", "The provider is gone."));
      return { price: 1 };
    };
    await expect(done(work, { atOnce: 1 })).rejects.toMatchObject({ problem: { kind: "misconfigured" } });
    expect(began).toEqual([1, 2]);
    expect(home.jobs.byId(job)).toMatchObject({ done: 1, of: 3, price: 1 });
  });

  it("that a dead process left are done once more, and then given up", async () => {
    home.steps.add(job, upTo(2));
    for (const tries of [1, 2]) {
      // claimed, and never ended
      expect(home.steps.claim(job)).toMatchObject({ place: 1, tries });
      if (tries === 1) home.steps.recover(job, problem("interrupted", "It was cut off."));
    }
    const began: number[] = [];
    await done(async ({ work }) => {
      began.push(work);
      return { price: 0 };
    });
    expect(began).toEqual([2]);
    expect(home.jobs.byId(job)).toMatchObject({ done: 2, of: 2 });
  });

  it("wait again where it is stopped, and where something of our own goes wrong", async () => {
    home.steps.add(job, upTo(6));
    await expect(
      done(async ({ work }) => {
        if (work === 3) throw new Error("the disk is full");
        await rest(5);
        return { price: 0 };
      }),
    ).rejects.toThrow("the disk is full");
    const stopped = new AbortController();
    const underWay = done(
      async (_step, signal) => {
        await rest(60_000, undefined, { signal });
        return { price: 0 };
      },
      { signal: stopped.signal },
    );
    stopped.abort(new Error("It was stopped."));
    await expect(underWay).rejects.toThrow();
    const left = home.steps.standing(job);
    const began: number[] = [];
    await done(async ({ work }) => {
      began.push(work);
      return { price: 0 };
    });
    expect(began).toHaveLength(left.of - left.done);
    expect(home.steps.standing(job)).toMatchObject({ done: 6, of: 6 });
  });

  it.each([1, 8])("are begun no more where they might cost more than they may, %i at once", async (atOnce) => {
    home.steps.add(job, upTo(20));
    const work = async () => {
      await rest(2);
      return { price: 300 };
    };
    await expect(done(work, { mostPrice: 2_000, atOnce })).rejects.toMatchObject({ problem: { kind: "over-limit" } });
    expect(home.jobs.byId(job)).toMatchObject({ done: 6, price: 1_800 });
  });

  it("of five providers, 200 of them, keep to the places of each, and a visitor waits for none of them", async () => {
    const places: Record<string, number> = { one: 1, two: 2, five: 5, other: 2, further: 5 };
    const names = Object.keys(places);
    home.steps.add(job, upTo(200));
    const gate = new Gate();
    const inside = new Map<string, number>();
    const most = new Map<string, number>();
    const began: number[] = [];
    const call = async (name: string, ms: number) => {
      const now = (inside.get(name) ?? 0) + 1;
      inside.set(name, now);
      most.set(name, Math.max(most.get(name) ?? 0, now));
      await rest(ms);
      inside.set(name, (inside.get(name) ?? 0) - 1);
    };
    let isOver = false;
    const visitor = async (name: string) => {
      let calls = 0;
      while (!isOver) {
        const leave = await gate.enter(name, places[name] ?? 1, "visitor", () => expect.unreachable(), never);
        await call(name, 1);
        leave?.();
        calls += 1;
        await rest(1);
      }
      return calls;
    };
    const visitors = names.filter((name) => (places[name] ?? 0) > 1).map(visitor);
    await done(
      async ({ work }) => {
        const name = names[work % names.length] ?? "";
        const leave = await gate.enter(name, places[name] ?? 1, "job", () => {}, never);
        began.push(work);
        await call(name, 1);
        leave?.();
        return { price: 1 };
      },
      { atOnce: 20 },
    );
    isOver = true;
    for (const calls of await Promise.all(visitors)) expect(calls).toBeGreaterThan(0);
    expect(began.toSorted((a, b) => a - b)).toEqual(upTo(200));
    for (const name of names) expect([name, (most.get(name) ?? 0) <= (places[name] ?? 0)]).toEqual([name, true]);
    expect(home.jobs.byId(job)).toMatchObject({ done: 200, price: 200 });
  });
});
