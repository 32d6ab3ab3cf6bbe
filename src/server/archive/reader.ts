import { join } from "node:path";
import { runInNewContext } from "node:vm";
import { workerData } from "node:worker_threads";
import { type JudgedReply, judgeAll, type ToJudge } from "@/core/checks/judging";
import { type Differing, differingIn, type ToTellApart } from "@/core/comparing/sets/differing";
import { outlineSchema } from "@/core/context/outline";
import type { Guard } from "@/core/guards/guard";
import { type Place, placesIn } from "@/core/guards/trying";
import { schemas } from "@/core/schema/schema";
import type { Filter } from "@/core/search/filter";
import { nearestIn } from "@/core/sources/meaning";
import { RevisionReader } from "../apps/revision-reader";
import { MessageStore } from "../conversations/message-store";
import { openForReading } from "../database/database";
import { FileStore } from "../files/file-store";
import { type Nearest, type NearestInput, VectorStore } from "../sources/vector-store";
import { answerCalls } from "./answering";
import { Exporter, type ExportForm } from "./export";
import { type ForetellInput, type Foretold, foretell } from "./foretelling";
import { GuardTrier, type Tried, type TryInput } from "./guard-trier";
import { HistoryReader } from "./history-reader";

/** Milliseconds after which a pattern is cut off. */
const longestSearch = 250;

/** Characters of a file that are given at a time, and milliseconds that are spent on them. */
const partSize = 256 * 1024;
const partMs = 15;

const { folder } = workerData.given as { folder: string };
const database = openForReading(folder);
const history = new HistoryReader(database);
const revisions = new RevisionReader(database);
const exporter = new Exporter(database, new FileStore(database, join(folder, "files")));
const messages = new MessageStore(database);
const vectors = new VectorStore(database);
const guards = new GuardTrier(database);
const exports = new Map<number, Generator<string>>();
let lastExport = 0;

/** What the reading thread is asked for. An export is read in parts, so that a search need not wait for it. */
const methods = {
  page: (input: Parameters<HistoryReader["page"]>[0]) => history.page(input),
  counted: (input: Parameters<HistoryReader["counted"]>[0]) => history.counted(input),
  turnsSaying: (input: Parameters<HistoryReader["turnsSaying"]>[0]) => history.turnsSaying(input),
  ids: ({ app, filter, most }: { app: string; filter: Filter; most: number }) => history.ids(app, filter, most),
  /** As the text of an answer: a long one is checked and written here, since all else would wait for that. */
  outline({ end }: { end: string | null }): string {
    return JSON.stringify(outlineSchema.parse(end === null ? { makers: [], rows: [] } : history.outline(end)));
  },
  revisions: ({ app, before, count }: { app: string; before: number; count: number }) =>
    revisions.page(app, before, count),
  /** What saying a line again would take: turn by turn, so that a search need not wait for it. */
  async foretell(input: ForetellInput): Promise<Foretold> {
    const turns = foretell(messages, input);
    for (;;) {
      const until = performance.now() + partMs;
      while (performance.now() < until) {
        const { value, done } = turns.next();
        if (done) return value;
      }
      await new Promise(setImmediate);
    }
  },
  /** Replies of a trial held against what is expected: here nothing waits for a pattern that runs away. */
  judged: (input: ToJudge): JudgedReply[] =>
    judgeAll(input, {
      misfit: (schema, value) => schemas.misfitOf(schema, value),
      matches({ source, flags }) {
        try {
          return runInNewContext(
            "new RegExp(source, flags).test(text)",
            { source, flags, text: input.seen.text },
            { timeout: longestSearch },
          ) as boolean;
        } catch (error) {
          if ((error as NodeJS.ErrnoException).code === "ERR_SCRIPT_EXECUTION_TIMEOUT") return undefined;
          throw error;
        }
      },
    }),
  /** The passages of cuttings that are nearest to a vector, and how many of them have one. */
  nearest({ space, cuttings, query, most }: NearestInput): Nearest {
    const matrices = cuttings.map((cutting) => vectors.matrix(space, cutting));
    return { near: nearestIn(matrices, query, most), looked: matrices.reduce((sum, { ids }) => sum + ids.length, 0) };
  },
  /** What the lanes of some rows of a set do not all state. */
  differing: (rows: readonly ToTellApart[]): Differing[][] => rows.map(differingIn),
  /** What a rule would have found, in as many conversations as one go takes. */
  tryGuard: (input: TryInput): Promise<Tried> => guards.tryOn(input),
  /** What a rule finds in texts. */
  guardPlaces: ({ guard, prompt, texts }: { guard: Guard; prompt: string; texts: readonly string[] }): Place[][] =>
    texts.map((text) => placesIn(guard, prompt, text)),
  choices: ({ app }: { app: string }) => history.choices(app),
  beginExport({ app, form, filter, ids }: { app: string; form: ExportForm; filter: Filter; ids?: string[] }): number {
    lastExport += 1;
    exports.set(lastExport, exporter.write(form, ids ? history.ofApp(app, ids) : history.allIds(app, filter)));
    return lastExport;
  },
  /** The next part of an export; null where there is none. */
  nextOfExport({ key }: { key: number }): string | null {
    const parts = exports.get(key);
    const until = performance.now() + partMs;
    let text = "";
    while (parts && text.length < partSize && performance.now() < until) {
      const { value, done } = parts.next();
      if (done) {
        exports.delete(key);
        break;
      }
      text += value;
    }
    return text === "" && !exports.has(key) ? null : text;
  },
  endExport({ key }: { key: number }): void {
    exports.delete(key);
  },
};
export type ReaderMethods = typeof methods;

answerCalls(methods);
