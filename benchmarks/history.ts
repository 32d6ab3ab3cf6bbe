import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import pino from "pino";
import { matchOf, termsOf } from "@/core/search/terms";
import { HistoryReader } from "@/server/archive/history-reader";
import { openFolder } from "@/server/boot";
import { fill, wordAt } from "../scripts/filling";
import { quantile } from "./rig";
import type { Row } from "./row";

const messagesEach = 50;
const onPage = 21;
const rounds = 60;

/** A history of 100,000 messages against one of 1,000, and its search against the bare query. */
export function historyRows(): Row[] {
  const folder = mkdtempSync(join(tmpdir(), "finch-bench-"));
  const home = openFolder(folder, () => pino({ level: "silent" }));
  try {
    const content = {
      prompt: "",
      variables: {},
      provider: "p",
      model: "m",
      settings: {},
      memory: { kind: "everything" },
    } as const;
    const few = home.apps.make("Few", content, 1).id;
    const many = home.apps.make("Many", content, 1).id;
    fill(home, few, 20, messagesEach);
    const ids = fill(home, many, 2_000, messagesEach);
    const reader = new HistoryReader(home.database);
    const first = { updatedAt: Number.MAX_SAFE_INTEGER, id: "" };
    const placeOf = (id: string) => ({ updatedAt: home.conversations.byId(id)?.updatedAt ?? 0, id });
    const page = (app: string, after: typeof first) => timed(() => reader.page({ app, filter: {}, after }));
    // the same number of rows on each; the counts of a first page are left out of both
    const short = page(few, { updatedAt: Number.MAX_SAFE_INTEGER - 1, id: "" });
    const row = (what: string, ratio: number): Row => ({ what, ratio, bar: 1.5, isMost: true });
    const places = {
      first: { updatedAt: Number.MAX_SAFE_INTEGER - 1, id: "" },
      middle: placeOf(ids[1_000] ?? ""),
      last: placeOf(ids[20] ?? ""),
    };
    return [
      ...Object.entries(places).map(([name, place]) =>
        row(`history: ${name} page of 100,000 messages ÷ the page of 1,000`, page(many, place) / short),
      ),
      row(
        "search: 50 terms from rare to common with two filters, 95th ÷ the bare query",
        searchRatio(home.database, reader, many),
      ),
    ];
  } finally {
    home.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The store's search against SQL that does nothing but the same, term by term. */
function searchRatio(database: ReturnType<typeof openFolder>["database"], reader: HistoryReader, app: string): number {
  const bare = database.prepare<[string, string]>(
    `WITH hits (number, places) AS MATERIALIZED (
       SELECT rowid / 1048576, count(*) FROM words WHERE words MATCH ? GROUP BY 1)
     SELECT c.id, c.number, c.updated_at, hits.places FROM hits JOIN conversations AS c ON c.number = hits.number
     WHERE c.app_id = ? AND c.deleted_at IS NULL AND c.unlisted = 0 AND c.origin = 'page'
       AND EXISTS (SELECT 1 FROM messages WHERE conversation_id = c.id AND role = 'app' AND is_leaving = 0 AND state IN ('cut'))
     ORDER BY c.updated_at DESC, c.id DESC LIMIT ${onPage}`,
  );
  const terms = Array.from({ length: 50 }, (_, at) => wordAt(Math.floor(4_000 ** (1 - at / 50))));
  const first = { updatedAt: Number.MAX_SAFE_INTEGER, id: "" };
  const ours: number[] = [];
  const plain: number[] = [];
  for (const term of terms) {
    const words = `${term} `;
    const wanted = termsOf(words);
    if (!wanted) throw new Error(`${term} is no word.`);
    const match = matchOf(wanted);
    const found = reader.find(app, { words, origin: "page", ended: "cut" }, first, onPage);
    const expected = bare.all(match, app);
    if (JSON.stringify(found) !== JSON.stringify(expected))
      throw new Error(`${term} finds something else than it should.`);
    ours.push(timed(() => reader.find(app, { words, origin: "page", ended: "cut" }, first, onPage), 5));
    plain.push(timed(() => bare.all(match, app), 5));
  }
  return quantile(ours, 0.95) / quantile(plain, 0.95);
}

/** Milliseconds that a call takes, by the median of so many. */
function timed(call: () => unknown, count = rounds): number {
  call();
  const taken = Array.from({ length: count }, () => {
    const started = performance.now();
    call();
    return performance.now() - started;
  });
  return quantile(taken, 0.5);
}
