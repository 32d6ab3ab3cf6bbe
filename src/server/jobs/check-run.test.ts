import type { ServerResponse } from "node:http";
import { describe, expect, it, vi } from "vitest";
import { runAnswer } from "../answers/checks";
import type { StoredRun } from "../checks/run-store";
import type { WantedRun } from "../checks/runs";
import { checkedLast } from "../checks/standing";
import { isRefusal } from "../ground/refusal";
import { streams, TestApp } from "../test/app";
import { addTrials, beginRun, deleteRun, resumeRun, stopRun } from "./check-run";
import { runDueChecks } from "./check-schedule";

const on = TestApp.each();
const script = 'check  says aye\nvisitor  Do you?\n    says "aye"\n';
/** Milliseconds that a run may take: its replies are judged in a thread that has to start first. */
const patience = 20_000;
const hour = 60 * 60 * 1000;

function begin(wanted: Partial<WantedRun> = {}, mostPrice: number | null = null): StoredRun {
  on.home.scripts.put(on.app.id, "a", script, Date.now());
  const content = on.home.apps.revision(on.app.id, on.app.liveRevision)?.content ?? on.content({});
  const columns = [{ name: "live", base: "live" as const, content }];
  const plain = { columns, trials: 1, seed: 0, against: 0, leavesOutUnchanged: false, origin: "bench" as const };
  return beginRun(on.home, on.app, { ...plain, ...wanted }, mostPrice);
}

const stateOf = (run: StoredRun) => runAnswer(on.home, on.home.runs.byId(run.id) ?? run);
const ended = (run: StoredRun) => vi.waitFor(() => expect(stateOf(run).endedAt).not.toBeNull(), patience);
const outcomesOf = (run: StoredRun) => on.home.runs.trials(run.id).map(({ outcome }) => outcome);

/** A provider that answers once it is let. */
function held() {
  const waiting: ServerResponse[] = [];
  on.respond = (response) => void waiting.push(response);
  return {
    waiting,
    letGo() {
      on.respond = streams(["Aye."]);
      for (const response of waiting.splice(0)) streams(["Aye."])(response);
    },
  };
}

describe("a run of checks", () => {
  it("makes its trials with seeds one after another, and keeps what they cost", async () => {
    const run = begin({ trials: 3, seed: 40 });
    await ended(run);
    expect(on.home.runs.trials(run.id)).toMatchObject([
      { trial: 1, seed: 41, outcome: "held", outcomes: "h" },
      { trial: 2, seed: 42 },
      { trial: 3, seed: 43 },
    ]);
    expect(on.requests.map(({ body }) => JSON.parse(body).seed).sort()).toEqual([41, 42, 43]);
    expect(stateOf(run).price).toBeGreaterThan(0);
  });

  it("stops once it has cost what it may", async () => {
    const run = begin({ trials: 100 }, 0.0002);
    await ended(run);
    const { done, of, problem } = stateOf(run);
    expect([of, problem?.kind]).toEqual([100, "over-limit"]);
    expect(done).toBeLessThan(100);
  });

  it("is stopped in the midst of a trial, and makes just that one anew when it goes on", async () => {
    const provider = held();
    const run = begin({ trials: 2 });
    await vi.waitFor(() => expect(provider.waiting).toHaveLength(2), patience);
    await stopRun(on.home, run);
    expect([stateOf(run).state, outcomesOf(run)]).toEqual(["stopped", []]);
    provider.letGo();
    resumeRun(on.home, run);
    await ended(run);
    expect([stateOf(run).state, outcomesOf(run)]).toEqual(["done", ["held", "held"]]);
    expect(() => resumeRun(on.home, run)).toThrow(expect.objectContaining({ problem: expect.anything() }));
  });

  it("takes no further trials while it is under way, and is deleted with what is under way of it", async () => {
    const provider = held();
    const run = begin();
    await vi.waitFor(() => expect(provider.waiting).toHaveLength(1), patience);
    const more = () => addTrials(on.home, run, { checks: [0], trials: 1 });
    expect(more).toThrow(expect.objectContaining({ problem: expect.objectContaining({ kind: "conflict" }) }));
    await deleteRun(on.home, run);
    expect([on.home.runs.byId(run.id), on.home.runs.trials(run.id)]).toEqual([undefined, []]);
    expect(on.home.runs.text("none")).toBe("");
    provider.letGo();
  });

  it("asks for further trials of the checks that are named, after those there are", async () => {
    const run = begin({ trials: 2 });
    await ended(run);
    addTrials(on.home, run, { checks: [0], trials: 3 });
    await ended(run);
    expect(on.home.runs.trials(run.id).map(({ trial, seed }) => [trial, seed])).toEqual(
      [1, 2, 3, 4, 5].map((each) => [each, each]),
    );
    expect(() => addTrials(on.home, run, { checks: [7], trials: 1 })).toThrow();
  });

  it("leaves a check that a provider does not answer silent, and the other columns as they are", async () => {
    on.respond = (response, body) =>
      body.includes('"m2"') ? response.writeHead(503).end("{}") : streams(["Aye."])(response);
    const other = on.content({ model: "m2" });
    on.home.providers.putModels(on.provider, [
      ...on.home.providers.models(on.provider),
      { ...on.home.providers.models(on.provider)[0], name: "m2" } as never,
    ]);
    const content = on.content({});
    const columns = [
      { name: "live", base: "live" as const, content },
      { name: "m2", base: "live" as const, content: other },
    ];
    const run = begin({ columns });
    await ended(run);
    expect(stateOf(run).checks[0]?.cells.map(({ trials }) => trials[0]?.outcome)).toEqual(["held", "silent"]);
    expect(stateOf(run).checks[0]?.cells[1]?.standing).toEqual({ kind: "unknown" });
  });
});

describe("checks that run by themselves", () => {
  it("run on the live revision when they are due, and not before", async () => {
    begin();
    const now = Date.now();
    on.home.runs.setSchedule(on.app.id, { every: 6, trials: 2, nextAt: now + hour });
    runDueChecks(on.home, now);
    expect(on.home.runs.ofApp(on.app.id, undefined, 10)).toHaveLength(1);
    runDueChecks(on.home, now + hour);
    const [run] = on.home.runs.ofApp(on.app.id, undefined, 10);
    expect(run).toMatchObject({ origin: "schedule", trials: 2 });
    expect(on.home.runs.schedule(on.app.id)?.nextAt).toBe(now + 7 * hour);
    if (run) await ended(run);
  });

  it("are tried again in their time where they can't be read", () => {
    on.home.scripts.put(on.app.id, "a", "check  nothing", Date.now());
    on.home.runs.setSchedule(on.app.id, { every: 1, trials: 1, nextAt: 5 });
    runDueChecks(on.home, 10);
    expect(on.home.runs.ofApp(on.app.id, undefined, 10)).toEqual([]);
    expect(on.home.runs.schedule(on.app.id)?.nextAt).toBe(10 + hour);
  });

  it("say what is worse though nothing changed, and what the provider calls its model since when", async () => {
    const named = (version: string, text: string) => (response: ServerResponse) => {
      response.writeHead(200, { "content-type": "text/event-stream" });
      const event = (delta: object, finish: string | null) =>
        `data: ${JSON.stringify({ model: version, choices: [{ delta, finish_reason: finish }] })}\n\n`;
      response.end(`${event({ content: text }, null)}${event({}, "stop")}data: [DONE]\n\n`);
    };
    on.respond = named("m-2025-01", "Aye.");
    const first = begin({ trials: 5 });
    await ended(first);
    expect(stateOf(first).drift).toBeNull();
    on.respond = named("m-2025-02", "No.");
    const second = begin({ trials: 5 });
    await ended(second);
    expect(stateOf(second).drift).toMatchObject({
      worse: ["says aye"],
      perhapsWorse: [],
      version: { model: "m", version: "m-2025-02", before: "m-2025-01" },
    });
    expect(checkedLast(on.home, on.app.id, on.app.draftHash)).toMatchObject({ held: 0, of: 5, worse: [] });
  });
});

describe("a run that can't be", () => {
  it.each([
    [{ trials: 0, against: 3 }, "bad-request"],
    [{ only: ["nothing"] }, "not-found"],
    [{ script: "nothing" }, "not-found"],
    [{ trials: 201 }, "bad-request"],
    [{ columns: [] }, "bad-request"],
  ])("is refused: %j", (wanted, kind) => {
    let refused: string | undefined;
    try {
      begin(wanted);
    } catch (error) {
      if (!isRefusal(error)) throw error;
      refused = error.problem.kind;
    }
    expect(refused).toBe(kind);
    expect(on.home.runs.ofApp(on.app.id, undefined, 10)).toEqual([]);
  });
});
