import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";
import Sqlite from "better-sqlite3";
import { build } from "esbuild";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { ledgerSchema } from "@/core/context/ledger";
import { replyFactsSchema } from "@/core/conversation/message";
import { sumSchema } from "@/core/conversation/sum";
import { calibrationSchema, uncalibrated } from "@/core/tokens/calibration";
import { classes, countsSchema, noCounts } from "@/core/tokens/counts";
import { SmallDisk } from "../../../scripts/small-disk";
import { AppStore } from "../apps/app-store";
import { ContentStore } from "../apps/content-store";
import { MessageStore } from "../conversations/message-store";
import { DispatchStore } from "../dispatches/dispatch-store";
import { ProviderStore } from "../providers/provider-store";
import { openDatabase } from "./database";
import { NotBroughtAlong } from "./migrate";
import { storageProblem } from "./storage";
import { fillOld, olderFolder } from "./test/older-folder";

let folder = "";
let told: string[] = [];
const tell = (line: string) => void told.push(line);
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), "finch-test-"));
  told = [];
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** What a database says of its form and of its replies; it is read and not changed. */
function formOf(file: string): { version: unknown; replies: unknown; first: string } {
  const database = new Sqlite(file, { readonly: true });
  try {
    return {
      version: database.pragma("user_version", { simple: true }),
      replies: database.prepare("SELECT count(*) FROM messages WHERE role = 'app'").pluck().get(),
      first: database.prepare("SELECT facts FROM messages WHERE id = 'msg_00000001'").pluck().get() as string,
    };
  } finally {
    database.close();
  }
}

const newest = readdirSync("src/server/database/migrations").length;

describe("a data folder that knew providers by the names that are shown", () => {
  it("knows them by their lasting names everywhere, and each reply by its content", () => {
    const older = olderFolder(folder, 14);
    fillOld(older, 6);
    older.close();
    const database = openDatabase(folder, tell);
    const contents = new ContentStore(database);
    const apps = new AppStore(database, contents);
    const [app] = apps.all();
    expect(app).toMatchObject({ liveRevision: 2, draft: { settings: { temperature: 0.2 } } });
    const [one, two, three] = [1, 2, 3].map((number) => apps.revision("app_1", number));
    // what an empty opening says is what none says: of both numbers, replies go on with the later
    expect(one?.hash).toBe(two?.hash);
    expect(three?.hash).not.toBe(two?.hash);
    expect(apps.numberOf("app_1", one?.hash ?? "")).toBe(2);

    const line = new MessageStore(database).line("msg_00000011");
    const replies = line.filter((message) => message.role === "app");
    expect(replies.map(({ facts }) => [facts.revision, facts.content])).toEqual(
      [one, two, three, one, two, three].map((each) => [each?.number, each?.hash]),
    );
    expect(replies[0]?.facts).toMatchObject({
      provider: "reed-bed",
      insteadOf: { provider: "gone-bed" },
      failures: [{ provider: "reed-bed" }],
    });
    const dispatches = new DispatchStore(database);
    expect(["dis_1", "dis_2"].map((id) => dispatches.byId(id)?.provider)).toEqual(["reed-bed", "gone-bed"]);
    const all = (sql: string) => database.prepare(sql).pluck().all();
    expect(all("SELECT provider FROM spend")).toEqual(["gone-bed"]);
    expect(all("SELECT provider || ' ' || answered_by FROM summaries")).toEqual([
      'reed-bed {"provider":"reed-bed","model":"m"}',
    ]);
    expect(all("SELECT answered_by FROM clears ORDER BY 1")).toEqual(["", '{"provider":"reed-bed","model":"m"}']);
    expect(all("SELECT json_extract(data, '$.provider') FROM latest_events")).toEqual(["reed-bed"]);
    expect(all("SELECT lines FROM event_pages")).toEqual([
      '{"id":1,"event":"reply","data":{"reply":"msg_00000001","provider":"reed-bed","model":"m"}}\n{"id":2,"event":"text","data":{"text":"Marsh"}}\n',
    ]);
    expect(all("SELECT slug FROM provider_stones")).toEqual(["gone-bed"]);
    database.close();
  });

  it("holds messages that may hold more than text: all is counted by the classes that came with that", () => {
    const older = olderFolder(folder, 14);
    fillOld(older, 2);
    older.close();
    const database = openDatabase(folder, tell);
    const reply = new MessageStore(database).message("msg_00000001");
    if (reply?.role !== "app") return expect.unreachable();
    const counts = countsSchema.parse(reply.counts);
    expect(counts).toEqual({ ...noCounts, words: 1 });
    expect(sumSchema.parse(reply.soFar).counts).toEqual(counts);
    // what an API wanted back was that of the only round
    expect(replyFactsSchema.parse(reply.facts)).toMatchObject({ carry: [{ round: 1, value: { seal: [1] } }] });
    expect(reply.facts.lead).toBeUndefined();
    const ledger = ledgerSchema.parse(new DispatchStore(database).byId("dis_1")?.ledger);
    expect(ledger.entries).toEqual([
      { part: "beside", kind: "prompt", tokens: 3, carried: true, reason: { kind: "prompt" } },
    ]);
    expect(ledger.holding?.counts).toEqual(counts);
    const learned = calibrationSchema.parse(new ProviderStore(database).model("pro_1", "m")?.calibration);
    const size = classes.length + 1;
    const [blanks, pictures, message] = ["blanks", "pictures", "message"].map((name) =>
      [...classes, "message"].indexOf(name),
    ) as [number, number, number];
    expect([learned.weights.blanks, learned.weights.message, learned.weights.pictures]).toEqual([
      9,
      10,
      uncalibrated.weights.pictures,
    ]);
    expect(learned.spread[blanks * size + message]).toBe(9 * 11 + 10);
    expect(learned.spread[pictures * size + pictures]).toBe(uncalibrated.spread[pictures * size + pictures]);
    database.close();
  });

  it("of 100,000 messages stays beside as it was, and says how far it is", { timeout: 240_000 }, () => {
    const older = olderFolder(folder, 14);
    fillOld(older, 50_000);
    older.close();
    openDatabase(folder, tell).close();
    const beside = join(folder, `finch-before-${String(newest).padStart(4, "0")}.sqlite`);
    expect(formOf(beside)).toMatchObject({ version: 14, replies: 50_000, first: expect.stringContaining("Marsh") });
    expect(formOf(join(folder, "finch.sqlite"))).toMatchObject({ version: newest, replies: 50_000 });
    expect(told.filter((line) => line.startsWith("0015-contents, step"))).not.toEqual([]);
    expect(told.filter((line) => line.startsWith("0017-pieces, step"))).not.toEqual([]);
    expect(told.at(-1)).toContain(beside);
  });

  it("is whole after a kill at any step, and is brought along by the next start", async () => {
    const older = olderFolder(folder, 14);
    fillOld(older, 3_000);
    older.close();
    const file = join(folder, "finch.sqlite");
    // in one file, so that a start translates nothing
    const program = await build({
      stdin: {
        contents: `import { bringAlong } from "./src/server/database/migrate";
          bringAlong(process.argv[1], (line) => console.log(line));`,
        resolveDir: process.cwd(),
      },
      bundle: true,
      packages: "external",
      platform: "node",
      format: "esm",
      write: false,
    });
    const begin = () =>
      spawn(process.execPath, ["--input-type=module", "-e", program.outputFiles[0]?.text ?? "", file], {
        stdio: ["ignore", "pipe", "inherit"],
      });
    for (let steps = 1; ; steps += 1) {
      const child = begin();
      const ended = once(child, "exit");
      let heard = 0;
      for await (const _line of createInterface(child.stdout)) {
        heard += 1;
        if (heard === steps) child.kill("SIGKILL");
      }
      const [, signal] = await ended;
      if (signal === null) break;
      const { version, replies } = formOf(file);
      // the last word is said once the copy has taken its place
      expect([14, newest]).toContain(version);
      expect(replies).toBe(3_000);
      if (version === newest) break;
    }
    openDatabase(folder, tell).close();
    expect(formOf(file)).toMatchObject({ version: newest, replies: 3_000 });
    expect(readdirSync(folder).filter((name) => name.includes(".new"))).toEqual([]);
  }, 60_000);
});

describe("a disk that has no room for a copy", () => {
  const disk = SmallDisk.mount(24);
  afterEach(() => disk?.free());

  it.skipIf(!disk)("is said with what it takes, and nothing is changed", () => {
    if (!disk) return;
    try {
      const older = olderFolder(disk.folder, 14);
      fillOld(older, 2_000);
      older.close();
      const file = join(disk.folder, "finch.sqlite");
      disk.leave(512 * 1024);
      expect(() => openDatabase(disk.folder, tell)).toThrow(NotBroughtAlong);
      expect(() => openDatabase(disk.folder, tell)).toThrow(/no room .* takes up to \d+ MB, and 1 MB are free/);
      expect(formOf(file)).toMatchObject({ version: 14, replies: 2_000 });
      disk.free();
      openDatabase(disk.folder, tell).close();
      expect(formOf(file)).toMatchObject({ version: newest });
    } finally {
      disk.unmount();
    }
  });
});

describe("a disk that fills while a data folder is brought along", () => {
  const disk = SmallDisk.mount(24);

  it.skipIf(!disk)("leaves the folder as it was, and can be brought along later", () => {
    if (!disk) return;
    try {
      const older = olderFolder(disk.folder, 14);
      fillOld(older, 2_000);
      older.close();
      const file = join(disk.folder, "finch.sqlite");
      for (const step of ["step 1 of", "step 8 of"]) {
        let failure: unknown;
        try {
          openDatabase(disk.folder, (line) => {
            if (line.includes(`0015-contents, ${step}`)) disk.leave(0);
          });
        } catch (error) {
          failure = error;
        }
        expect(storageProblem(failure)?.detail).toContain("the disk is full");
        expect(existsSync(`${file}.new`)).toBe(false);
        expect(formOf(file)).toMatchObject({ version: 14, replies: 2_000 });
        disk.free();
      }
      openDatabase(disk.folder, tell).close();
      expect(formOf(file)).toMatchObject({ version: newest });
    } finally {
      disk.unmount();
    }
  });
});
