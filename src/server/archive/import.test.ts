import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { piecesOf } from "@/core/conversation/pieces";
import type { Home } from "../home";
import { deleteBranch, nameBranch, setClear, setPin, showBranch, writeTake } from "../tending/branches";
import { rateReply, writeOn } from "../tending/marks";
import { plainContent, plainFacts } from "../test/conversation";
import { testFolder } from "../test/folder";
import { Exporter, type ExportForm } from "./export";
import { HistoryReader } from "./history-reader";
import { ImportCheck, type ImportInput, ImportStore } from "./import";

let { home, remove } = testFolder();
remove();
let folder = "";
beforeEach(() => {
  ({ home, remove } = testFolder());
  folder = mkdtempSync(join(tmpdir(), "finch-import-"));
});
afterEach(() => {
  remove();
  rmSync(folder, { recursive: true, force: true });
});

const appIn = (into: Home) => into.apps.all()[0]?.id ?? into.apps.make("A", plainContent, 1).id;
const allIn = (of: Home) => new HistoryReader(of.database).ids(appIn(of), {}, 10_000);
const exported = (of: Home, form: ExportForm = "jsonl") =>
  [...new Exporter(of.database, of.files).write(form, allIn(of))].join("");
const inputFor = (into: Home, text: string, as: ImportInput["as"] = "jsonl"): ImportInput => {
  const file = join(folder, "file");
  writeFileSync(file, text);
  const job = into.jobs.add(
    appIn(into),
    { kind: "import", as, name: "a file", bytes: text.length, phase: "storing" },
    null,
    1,
  ).id;
  return { job, app: appIn(into), file, as, candidate: { provider: "p", model: "m", revision: 1 }, now: 5 };
};

async function checked(input: ImportInput) {
  const check = new ImportCheck(input);
  for (let standing = await check.some(); ; standing = await check.some()) if (standing.isOver) return standing;
}

async function stored(into: Home, input: ImportInput, most = Number.POSITIVE_INFINITY) {
  const store = new ImportStore(into.database, into.files, input);
  for (let rounds = 0; rounds < most; rounds += 1) {
    const standing = await store.some();
    if (!standing.isOver) continue;
    while (into.conversations.showSome(input.job));
    return standing;
  }
  return undefined;
}

/** An export of one folder, imported into an empty one, and exported from there. */
async function thereAndBack(text: string): Promise<string> {
  const other = testFolder();
  try {
    const input = inputFor(other.home, text);
    expect(await checked(input)).toMatchObject({ unfit: [] });
    await stored(other.home, input);
    return exported(other.home);
  } finally {
    other.remove();
  }
}

/** An export as it comes back from where it was imported: all is the same, but where it came from. */
function asImported(text: string): string {
  return text.replace(/"origin":"\w+"/g, '"origin":"imported"');
}

function turn(
  conversation: string,
  after: string | null,
  words: string,
  state: "complete" | "cut" | "failed" = "complete",
) {
  const parent = after === null ? undefined : home.messages.message(after);
  const said = home.messages.addVisitorMessage({ conversation, parent, pieces: piecesOf(words), now: 2_000 });
  return { said: said.id, reply: take(conversation, said.id, `${words}!`, state) };
}

function take(
  conversation: string,
  message: string,
  words: string,
  state: "complete" | "cut" | "failed" = "complete",
  continues: string | null = null,
) {
  const parent = home.messages.message(message) ?? expect.unreachable();
  const facts = {
    ...plainFacts,
    usage: { input: 3, output: 4, estimated: false, price: 0.000_012, currency: "EUR" },
    totalMs: 12.5,
  };
  const { id } = home.messages.addReply({ conversation, parent, continues, facts, now: 3_000 });
  home.messages.finishReply({ id, state, pieces: piecesOf(state === "failed" ? "" : words), reported: 4, facts });
  return id;
}

const begin = (opening = "one") =>
  home.conversations.create({ app: appIn(home), visitor: null, origin: "http", client: "desk-7", opening, now: 1_000 })
    .id;

describe("an export", () => {
  it("comes back from an empty folder with the same bytes: lines, takes, marks, titles, prices", async () => {
    const id = begin();
    const first = turn(id, null, "one");
    const second = turn(id, first.reply, "two", "cut");
    const whole = take(id, second.said, "two! and more", "complete", second.reply);
    const other = turn(id, first.reply, "zwei");
    nameBranch(home, other.said, "in German");
    turn(id, null, "uno", "failed");
    writeTake(home, second.said, "by hand, “quoted”\n# and 渡し船", whole);
    showBranch(home, first.said);
    setClear(home, first.reply, true);
    setClear(home, second.reply, true, { provider: "reedbed", model: "reed-deep" });
    setPin(home, second.said, true);
    rateReply(home, whole, "visitor", "good");
    rateReply(home, whole, "bench", "bad");
    writeOn(home, home.conversations.byId(id) ?? expect.unreachable(), {
      title: "A title",
      note: "A note",
      tags: ["b", "a"],
    });
    home.conversations.spend(id, 0.012_345, "EUR");
    turn(begin("a second one"), null, "a second one");
    const text = exported(home);
    expect(text.split("\n")).toHaveLength(10 + 2 + 1);
    expect(await thereAndBack(text)).toBe(asImported(text));
  });

  it("comes back whatever the tree", async () => {
    const step = fc.record({ what: fc.constantFrom("say", "take", "show", "delete", "clear"), where: fc.nat() });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 15 }), async (steps) => {
        const id = begin();
        turn(id, null, "0");
        for (const [number, { what, where }] of steps.entries()) {
          const all = home.database
            .prepare<[string], { id: string; role: string; parent: string }>(
              "SELECT id, role, parent_id AS parent FROM messages WHERE conversation_id = ? AND is_leaving = 0 ORDER BY id",
            )
            .all(id);
          const replies = all.filter(({ role }) => role === "app");
          const reply = replies[where % replies.length] ?? expect.unreachable();
          const any = all[where % all.length]?.id ?? "";
          if (what === "say") turn(id, where % 5 === 0 ? null : reply.id, `say ${number}`);
          if (what === "take") take(id, reply.parent, `take ${number}`);
          if (what === "show") showBranch(home, any);
          if (what === "delete") await deleteBranch(home, any).catch(() => undefined);
          if (what === "clear") setClear(home, reply.id, true);
        }
        const text = exported(home);
        expect(await thereAndBack(text)).toBe(asImported(text));
        home.conversations.leave(id, 1);
        await home.removal.start();
      }),
      { numRuns: 12 },
    );
  }, 60_000);

  it("is Markdown of the line that is shown, and figures that no spreadsheet takes for a formula", () => {
    const id = begin("one *star*");
    const first = turn(id, null, "one");
    take(id, first.said, "another");
    showBranch(home, first.reply);
    expect(exported(home, "markdown")).toBe(
      "# one \\*star\\*\n\n1970-01-01T00:00:01.000Z\n\n## 1. Visitor\n\none\n\n### m\n\none!\n",
    );
    const rows = exported(home, "csv").split("\r\n");
    expect(rows[0]).toMatch(/^conversation,turn,at,revision,provider,model,state,input,output/);
    expect(rows[1]).toBe("1,1,1970-01-01T00:00:03.000Z,1,p,m,complete,3,4,,,0.000012,EUR,,12.5,4");
    expect(rows).toHaveLength(4);
  });
});

describe("an import", () => {
  const lines = (...values: unknown[]) =>
    values.map((value) => (typeof value === "string" ? value : JSON.stringify(value))).join("\n");
  const visitor = (text: string, more: object = {}) => ({ role: "visitor", text, ...more });
  const app = (text: string, more: object = {}) => ({ role: "app", text, ...more });

  it("needs a role and a text alone; it is out of sight until all of it is there", async () => {
    const input = inputFor(
      home,
      lines(visitor("Hello ferry"), app("Good day"), visitor("x", { conversation: 2 }), app("y")),
    );
    expect(await checked(input)).toMatchObject({
      conversations: 2,
      messages: 4,
      preview: [
        { opening: "Hello ferry", messages: 2 },
        { opening: "x", messages: 2 },
      ],
    });
    const store = new ImportStore(home.database, home.files, input);
    while (!(await store.some()).isOver);
    expect(allIn(home)).toEqual([]);
    while (home.conversations.showSome(input.job));
    expect(allIn(home)).toHaveLength(2);
    const found = new HistoryReader(home.database).page({ app: appIn(home), filter: { words: "ferry" }, after: null });
    expect(found.conversations).toMatchObject([{ origin: "imported", turnCount: 1, places: 1 }]);
    const tip = home.conversations.byId(found.conversations[0]?.id ?? "")?.tip ?? "";
    expect(home.messages.message(tip)).toMatchObject({
      facts: { hand: "written", model: "m" },
      state: "complete",
    });
  });

  it("names each line that does not fit, by its number, and why", async () => {
    const text = lines(visitor("a"), "{", "", visitor("b"), app(""), app("c"), { role: "visitor", text: 7 });
    const { unfit, unfitCount } = await checked(inputFor(home, text));
    expect(unfitCount).toBe(4);
    expect(unfit.map(({ line, why }) => `${line}: ${why}`)).toEqual([
      expect.stringMatching(/^2: it is not JSON/),
      "4: it follows another message of the visitor",
      "5: the reply says nothing",
      expect.stringMatching(/^7: text/),
    ]);
    expect((await checked(inputFor(home, ""))).unfit).toEqual([{ line: 1, why: "there is no message in it" }]);
  });

  it("takes two columns, with a head or without, quoted or not", async () => {
    const text = 'question,answer\n"When, exactly?","At ""nine"".\nOr ten."\nWhy?,So.\n';
    const input = inputFor(home, text, "columns");
    expect(await checked(input)).toMatchObject({ conversations: 2, unfit: [] });
    await stored(home, input);
    expect(exported(home, "markdown")).toContain('At "nine".\nOr ten.');
    const bad = await checked(inputFor(home, "a;b\nalone\nx;y;z\nq;\n", "columns"));
    expect(bad.unfit.map(({ line, why }) => `${line}: ${why.slice(0, 20)}`)).toEqual([
      "2: it has one column, a",
      "3: it has 3 columns, an",
      "4: the reply says nothi",
    ]);
  });

  it("that was cut off goes on where it was, and nothing is there twice", async () => {
    const many = Array.from({ length: 120 }, (_, at) => [
      visitor(`q${at}`, { conversation: at }),
      app(`a${at}`),
    ]).flat();
    const input = inputFor(home, lines(...many));
    await stored(home, input, 2);
    const before = home.database.prepare("SELECT count(*) FROM conversations").pluck().get();
    expect(before).toBeGreaterThan(0);
    expect(await stored(home, input)).toMatchObject({ conversations: 120, messages: 240 });
    await home.removal.start();
    expect(allIn(home)).toHaveLength(120);
    expect(home.database.prepare("SELECT count(*) FROM messages").pluck().get()).toBe(240);
  });

  it("passes a line that is longer than one may be, in bounded memory", async () => {
    const text = `${JSON.stringify(visitor("x".repeat(33 * 1024 * 1024)))}\n${JSON.stringify(visitor("a"))}\n${JSON.stringify(app("b"))}\n`;
    expect((await checked(inputFor(home, text))).unfit).toEqual([{ line: 1, why: "it is longer than 32 MiB" }]);
  });
});
