import { join } from "node:path";
import { setTimeout as rest } from "node:timers/promises";
import { workerData } from "node:worker_threads";
import { ConversationStore } from "../conversations/conversation-store";
import { WordStore } from "../conversations/word-store";
import { emptiedLog, openBeside } from "../database/database";
import { mergeAll } from "../database/word-index";
import { FileStore } from "../files/file-store";
import { answerCalls } from "./answering";
import { ImportCheck, type ImportInput, ImportStore } from "./import";

const { folder } = workerData.given as { folder: string };
const database = openBeside(folder);
const words = new WordStore(database);
const files = new FileStore(database, join(folder, "files"));
const conversations = new ConversationStore(database);
/** Steps of settling at a time, and milliseconds between two. */
const mostSteps = 20;
const restMs = 10;
/** How many times it is tried to empty the write-ahead log, which takes a moment when nobody reads it. */
const mostAttempts = 50;
const checks = new Map<string, ImportCheck>();
const stores = new Map<string, ImportStore>();

/** What the writing thread is asked for: each call does some of it, and says how far it is. */
const methods = {
  check(input: Pick<ImportInput, "job" | "file" | "as">) {
    const check = checks.get(input.job) ?? new ImportCheck(input);
    checks.set(input.job, check);
    return check.some();
  },
  store(input: ImportInput) {
    const store = stores.get(input.job) ?? new ImportStore(database, files, input);
    stores.set(input.job, store);
    return store.some();
  },
  /** Brings the index of what was stored together, in one step; false where there is nothing to do. */
  merge: (_input: null) => words.merge(),
  /** Brings what a job stored into sight, some of it at a time; false once all is. */
  show: ({ job }: { job: string }) => conversations.showSome(job),
  /** Brings parts of the index of words together, and the write-ahead log into the database as far as nobody reads what was there before. */
  async settle(_input: null) {
    for (let step = 0; step < mostSteps && words.merge(); step += 1) await rest(restMs);
    database.pragma("wal_checkpoint(PASSIVE)");
  },
  /**
   * Brings the indices of words together as a whole, so that nothing of what was deleted is left in them, and the
   * write-ahead log into the database; false where somebody still reads what stands in the log.
   */
  async erase(_input: null) {
    for (const index of ["words", "passage_words"] as const)
      for (let isMore = mergeAll(database, index, "begin"); isMore; isMore = mergeAll(database, index, "go on"))
        await rest(restMs);
    database.pragma("wal_checkpoint(PASSIVE)");
    for (let attempt = 0; attempt < mostAttempts; attempt += 1) {
      if (emptiedLog(database)) return true;
      await rest(restMs);
    }
    return false;
  },
  /** Lets go of what is known of a job. */
  leave({ job }: { job: string }) {
    checks.delete(job);
    stores.delete(job);
  },
};
export type WriterMethods = typeof methods;

answerCalls(methods);
