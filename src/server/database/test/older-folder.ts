import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { lendFunctions } from "../functions";

const migrations = "src/server/database/migrations";

/** The database of a data folder as the migrations up to a number left it. */
export function olderFolder(folder: string, upTo: number): Sqlite.Database {
  const database = new Sqlite(join(folder, "finch.sqlite"));
  lendFunctions(database);
  const files = readdirSync(migrations).sort().slice(0, upTo);
  for (const name of files) database.exec(readFileSync(join(migrations, name), "utf8"));
  database.pragma("journal_mode = WAL");
  database.pragma(`user_version = ${upTo}`);
  return database;
}

/**
 * Fills a folder of the form 14, which knew providers by the names that are shown: an app with three revisions, of
 * which two behave the same by now, and a conversation of so many turns.
 */
export function fillOld(database: Sqlite.Database, turns: number): void {
  const run = (sql: string, ...values: unknown[]) => database.prepare(sql).run(...values);
  const content = (more: object) =>
    JSON.stringify({
      prompt: "Be brief.",
      variables: {},
      provider: "reed-bed",
      model: "m",
      settings: {},
      memory: { kind: "everything" },
      ...more,
    });
  run(
    "INSERT INTO providers (id, slug, name, address, profile, limits, created_at) VALUES ('pro_1', 'reed-bed', 'Marsh', '', '{}', '{}', 1)",
  );
  run(
    "INSERT INTO apps (id, slug, name, draft, live_revision, created_at) VALUES ('app_1', 'desk', 'Desk', ?, 2, 1)",
    content({ settings: { temperature: 0.2 } }),
  );
  for (const [at, more] of [{}, { opening: [] }, { prompt: "Be long." }].entries())
    run(
      "INSERT INTO revisions (app_id, number, hash, content, created_at) VALUES ('app_1', ?, ?, ?, 1)",
      at + 1,
      `hash ${at}`,
      content(more),
    );
  run(
    `INSERT INTO conversations (id, app_id, opening, origin, created_at, updated_at, number, tip_id, turns)
     VALUES ('con_1', 'app_1', 'One', 'bench', 1, 1, 1, NULL, ?)`,
    turns,
  );
  const classes = ["words", "letters", "runs", "signs", "digits", "strokes", "marks", "gaps", "ends", "blanks"];
  const counts = JSON.stringify(Object.fromEntries(classes.map((name) => [name, name === "words" ? 1 : 0])));
  const soFar = JSON.stringify({ counts: JSON.parse(counts), messages: 2, turns: 1 });
  const message = database.prepare(
    `INSERT INTO messages (id, conversation_id, parent_id, depth, turn, role, pieces, counts, so_far, state, facts, created_at)
     VALUES (?, 'con_1', ?, ?, ?, ?, '[{"kind":"text","text":"Aye"}]', '${counts}', '${soFar}', ?, ?, 1)`,
  );
  const facts = (revision: number) =>
    JSON.stringify({
      revision,
      provider: "Marsh",
      model: "m",
      insteadOf: { provider: "Gone Bed", model: "n" },
      failures: [{ provider: "marsh", model: "o", problem: { kind: "empty", detail: "", advice: "" } }],
      carry: { seal: [revision] },
      lead: { prompt: "a", opening: "", pins: [], first: null, last: "" },
    });
  const weights = Object.fromEntries([...classes, "message"].map((name, at) => [name, at]));
  const spread = Array.from({ length: (classes.length + 1) ** 2 }, (_, at) => at);
  run(
    "INSERT INTO models (provider_id, name, window, input_price, output_price, currency, calibration) VALUES ('pro_1', 'm', 1000, 1, 1, 'EUR', ?)",
    JSON.stringify({ weights, spread, calls: 3, off: 0.1 }),
  );
  database.transaction(() => {
    for (let at = 0; at < 2 * turns; at += 1) {
      const isReply = at % 2 === 1;
      message.run(
        `msg_${String(at).padStart(8, "0")}`,
        at === 0 ? null : `msg_${String(at - 1).padStart(8, "0")}`,
        at,
        (at >> 1) + 1,
        isReply ? "app" : "visitor",
        isReply ? "complete" : null,
        isReply ? facts(1 + ((at >> 1) % 3)) : null,
      );
    }
  })();
  const [first, second] = ["msg_00000001", "msg_00000003"];
  const by = (provider: string) => JSON.stringify({ provider, model: "m" });
  run("INSERT INTO clears VALUES (?, ?, 'con_1', 1)", first, by("Marsh"));
  run("INSERT INTO clears VALUES (?, '', 'con_1', 1)", second);
  run(
    `INSERT INTO summaries (id, conversation_id, message_id, answered_by, left_out, text, counts, recipe, is_cut, provider, model, at)
     VALUES ('sum_1', 'con_1', ?, ?, '[]', 'Aye.', '${counts}', 'r', 0, 'Marsh', 'm', 1)`,
    second,
    by("Marsh"),
  );
  run("INSERT INTO makings (id, purpose, at) VALUES ('mak_1', 'reply', 1)");
  const dispatch = `INSERT INTO dispatches (id, making_id, round, attempt, provider_id, provider, model, profile_hash, request, prices, started_at)
    VALUES (?, 'mak_1', 1, ?, ?, ?, 'm', 'h', '{}', '{}', 1)`;
  // it was renamed since, and the other one was deleted
  run(dispatch, "dis_1", 1, "pro_1", "Reed Bed");
  run(dispatch, "dis_2", 2, "pro_0", "Gone Bed");
  const prompt = { part: "prompt", tokens: 3, carried: true, reason: { kind: "prompt" } };
  run(
    "UPDATE dispatches SET ledger = ? WHERE id = 'dis_1'",
    JSON.stringify({
      entries: [prompt],
      tokens: 3,
      holding: { counts: JSON.parse(counts), messages: 1 },
      lead: {},
      window: 1000,
    }),
  );
  run(
    `INSERT INTO spend (at, app_id, revision, provider, model, origin, purpose, input, output, price, currency)
     VALUES (1, 'app_1', 1, 'Gone Bed', 'n', 'bench', 'reply', 1, 1, 1, 'EUR')`,
  );
  const head = JSON.stringify({ reply: first, provider: "Marsh", model: "m" });
  run("INSERT INTO latest_events (position, reply_id, id, event, data) VALUES (1, ?, 1, 'reply', ?)", first, head);
  run(
    "INSERT INTO event_pages VALUES (?, 2, ?)",
    first,
    `{"id":1,"event":"reply","data":${head}}\n{"id":2,"event":"text","data":{"text":"Marsh"}}\n`,
  );
}
