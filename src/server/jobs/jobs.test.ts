import { readdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import pino from "pino";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Work } from "@/core/jobs/work";
import { problem } from "@/core/problem/problem";
import type { StoredApp } from "../apps/app-store";
import { underWay } from "../conversations/conversation-store";
import { Refusal } from "../ground/refusal";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { beginImport, storeImport, sweepImports, takePart } from "./import-job";
import type { StoredJob } from "./job-store";
import { JobRunner, type Kind } from "./runner";

let { home, folder, remove } = testFolder();
remove();
let app: StoredApp;
beforeEach(() => {
  ({ home, folder, remove } = testFolder());
  app = home.apps.make("A", plainContent, 1);
});
afterEach(() => remove());

const work: Work = { kind: "say-again", of: "con_1", through: "msg_1", opening: "a", revision: 1 };
const stateOf = (id: string) => home.jobs.byId(id)?.state;

/** A runner whose one kind does this. */
function runnerOf(kind: Kind, isClosing = () => false): JobRunner {
  const kinds = {
    import: kind,
    "say-again": kind,
    checks: kind,
    set: kind,
    judging: kind,
    pages: kind,
    reading: kind,
    vectors: kind,
    retrieval: kind,
    proposing: kind,
    digest: kind,
  };
  return new JobRunner({
    jobs: home.jobs,
    storage: home.storage,
    log: pino({ level: "silent" }),
    tell: () => {},
    isClosing,
    kinds,
  });
}

/** Conversations of a job that are in sight. */
const seenOf = (id: string) =>
  home.database
    .prepare("SELECT count(*) FROM conversations WHERE job_id = ? AND deleted_at IS NULL AND is_leaving = 0")
    .pluck()
    .get(id);

const whenAborted = (signal: AbortSignal) =>
  new Promise<never>((_resolve, reject) => signal.addEventListener("abort", () => reject(signal.reason)));

describe("a job", () => {
  it("runs once, to its end", async () => {
    let runs = 0;
    const runner = runnerOf({
      async run() {
        runs += 1;
        return "done";
      },
    });
    const { id } = home.jobs.add(app.id, work, null, 1);
    runner.start(id);
    runner.start(id);
    await expect.poll(() => stateOf(id)).toBe("done");
    expect(runs).toBe(1);
  });

  it("that can't be done says why, and what it did is undone", async () => {
    const undone: string[] = [];
    const run: Kind["run"] = async () => {
      throw new Refusal(problem("over-limit", "It is spent."));
    };
    const { id } = home.jobs.add(app.id, work, 0.5, 1);
    runnerOf({ run, undo: (job) => undone.push(job) }).start(id);
    await expect.poll(() => stateOf(id)).toBe("failed");
    expect(home.jobs.byId(id)).toMatchObject({ problem: { kind: "over-limit" }, mostPrice: 500_000 });
    expect(undone).toEqual([id]);
  });

  it("is stopped while it runs or waits, and what is over stays as it is", async () => {
    const undone: string[] = [];
    const runner = runnerOf({ run: (_job, signal) => whenAborted(signal), undo: (job) => undone.push(job) });
    const [running, waiting] = [home.jobs.add(app.id, work, null, 1).id, home.jobs.add(app.id, work, null, 1).id];
    runner.start(running);
    await runner.stop(running);
    await runner.stop(waiting);
    await runner.stop(running);
    expect([stateOf(running), stateOf(waiting), undone]).toEqual(["stopped", "stopped", [running, waiting]]);
  });

  it("that a stop of the process cut off is gone on with at the next start", async () => {
    let isClosing = false;
    const { id } = home.jobs.add(app.id, work, null, 1);
    const first = runnerOf({ run: (_job, signal) => whenAborted(signal) }, () => isClosing);
    first.start(id);
    isClosing = true;
    await first.stop(id);
    expect(stateOf(id)).toBe("running");
    runnerOf({ run: async () => "done" }).resume();
    await expect.poll(() => stateOf(id)).toBe("done");
  });

  it("that waits though it was begun goes on at the next start, and no other does", async () => {
    const [begun, waiting] = Array.from({ length: 2 }, () => home.jobs.add(app.id, work, null, 1).id);
    const left: Kind["left"] = ({ id }) => id === begun;
    runnerOf({ run: async () => "done", left }).resume();
    await expect.poll(() => stateOf(begun ?? "")).toBe("done");
    expect(stateOf(waiting ?? "")).toBe("waiting");
  });

  it("that can't write waits until it can, which health knows, and goes on from where it was", async () => {
    let isFull = true;
    const run: Kind["run"] = async () => {
      if (isFull) throw new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
      return "done";
    };
    const { id } = home.jobs.add(app.id, work, null, 1);
    runnerOf({ run }).start(id);
    await expect.poll(() => home.storage.problem?.detail).toContain("the disk is full");
    expect(stateOf(id)).toBe("running");
    isFull = false;
    await expect.poll(() => stateOf(id), { timeout: 5_000 }).toBe("done");
    expect(home.storage.problem).toBeUndefined();
  });

  it("that is stopped while nothing can be written has ended, and that is written later", async () => {
    let isFull = true;
    const full = () => {
      if (isFull) throw new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
    };
    const run: Kind["run"] = async () => {
      full();
      return "done";
    };
    const { id } = home.jobs.add(app.id, work, null, 1);
    const runner = runnerOf({ run, undo: full });
    runner.start(id);
    await expect.poll(() => home.storage.problem).toBeDefined();
    await runner.stop(id);
    const stored = home.jobs.byId(id) as StoredJob;
    expect([stored.state, runner.standing(stored).state]).toEqual(["running", "stopped"]);
    isFull = false;
    await expect.poll(() => stateOf(id), { timeout: 5_000 }).toBe("stopped");
    expect(home.storage.problem).toBeUndefined();
  });

  it("whose undoing fails by a mistake has failed all the same", async () => {
    const run: Kind["run"] = async () => {
      throw new Error("a mistake");
    };
    const undo = () => {
      throw new Error("another");
    };
    const { id } = home.jobs.add(app.id, work, null, 1);
    runnerOf({ run, undo }).start(id);
    await expect.poll(() => stateOf(id)).toBe("failed");
  });

  it("that waits for a word which never comes is let go of", async () => {
    const undone: string[] = [];
    const runner = runnerOf({ run: async () => "waiting", undo: (job) => undone.push(job) });
    const { id } = home.jobs.add(app.id, work, null, 10);
    await runner.letGo(10);
    expect(stateOf(id)).toBe("waiting");
    await runner.letGo(11);
    expect([stateOf(id), undone]).toEqual(["stopped", [id]]);
  });

  it("is listed with those that run first, and forgotten a while after its end", () => {
    const [done, running, later] = Array.from({ length: 3 }, () => home.jobs.add(app.id, work, null, 1).id);
    home.jobs.setState(done ?? "", "done", 5);
    home.jobs.setState(running ?? "", "running", 5);
    expect(home.jobs.latest().map(({ id }) => id)).toEqual([running, later, done]);
    home.jobs.forget(6);
    expect(home.jobs.latest().map(({ id }) => id)).toEqual([running, later]);
  });
});

describe("the file of an import", () => {
  const file = ["visitor", "app"].map((role) => JSON.stringify({ role, text: `${role} says` })).join("\n");
  const part = (text: string) => new Request("http://h/", { method: "PUT", body: text });
  const begin = () => beginImport(home, app, { name: "a.jsonl", as: "jsonl", bytes: file.length }).id;

  it("is sent in parts, in order, checked, and stored once that is wanted", async () => {
    const id = begin();
    await takePart(home, id, 0, part(file.slice(0, 20)));
    await expect(takePart(home, id, 0, part(file))).rejects.toThrow(/begins at byte 20/);
    await expect(takePart(home, id, 20, part(`${file} and more`))).rejects.toThrow(/more came/);
    expect(() => storeImport(home, id)).toThrow(/sending/);
    await takePart(home, id, 20, part(file.slice(20)));
    await expect.poll(() => stateOf(id)).toBe("waiting");
    expect(home.jobs.byId(id)?.work).toMatchObject({ phase: "checked", checked: { conversations: 1, messages: 2 } });
    await expect(takePart(home, id, file.length, part("x"))).rejects.toThrow(/checked/);
    storeImport(home, id);
    await expect.poll(() => stateOf(id)).toBe("done");
    expect(seenOf(id)).toBe(1);
    expect(() => storeImport(home, id)).toThrow(/done/);
  });

  it("of which a line does not fit stores nothing, and one that is left leaves nothing", async () => {
    const bad = '{"role":"app","text":"a"}';
    const { id } = beginImport(home, app, { name: "bad.jsonl", as: "jsonl", bytes: bad.length });
    await takePart(home, id, 0, part(bad));
    await expect.poll(() => stateOf(id)).toBe("failed");
    expect(home.jobs.byId(id)?.problem?.detail).toContain("Line 1: a conversation begins with the visitor");
    const left = begin();
    await takePart(home, left, 0, part(file));
    await expect.poll(() => stateOf(left)).toBe("waiting");
    await home.runner.stop(left);
    expect([stateOf(left), seenOf(left)]).toEqual(["stopped", 0]);
  });

  it("that was stored before the process was killed is done at the next start, and nothing takes it away", async () => {
    const id = begin();
    await takePart(home, id, 0, part(file));
    await expect.poll(() => stateOf(id)).toBe("waiting");
    storeImport(home, id);
    await expect.poll(() => stateOf(id)).toBe("done");
    for (const phase of ["stored", "storing"] as const) {
      const { work } = home.jobs.byId(id) as StoredJob;
      home.jobs.setWork(id, { ...(work as Extract<Work, { kind: "import" }>), phase }, 1);
      home.jobs.setState(id, "running", 1);
      if (phase === "storing") writeFileSync(join(folder, "imports", id), file);
      sweepImports(home);
      home.runner.resume();
      await expect.poll(() => stateOf(id)).toBe("done");
      expect(seenOf(id)).toBe(1);
    }
    // one that an earlier version left waiting
    home.jobs.setState(id, "waiting", 1);
    await home.runner.letGo(2);
    expect([stateOf(id), seenOf(id)]).toEqual(["stopped", 1]);
  });

  it("that was being sent when the process was killed says so, and what never came into sight is deleted", async () => {
    const [sent, half] = [begin(), begin()];
    await takePart(home, sent, 0, part(file.slice(0, 10)));
    const { id } = home.conversations.create({ app: app.id, visitor: null, origin: "job", opening: "", now: 1 });
    home.database.prepare("UPDATE conversations SET job_id = ?, deleted_at = ? WHERE id = ?").run(half, underWay, id);
    home.jobs.setState(half, "failed", 1);
    sweepImports(home);
    home.runner.resume();
    expect(home.jobs.byId(sent)).toMatchObject({ state: "stopped", problem: { kind: "interrupted" } });
    await home.removal.start();
    expect(home.conversations.stored(id)).toBeUndefined();
    expect(readdirSync(join(folder, "imports"))).toEqual([]);
  });
});
