import { workerData } from "node:worker_threads";
import type { Filter } from "@/core/search/filter";
import { openForReading } from "../database/database";
import { HistoryReader } from "../history/history-reader";
import { answerCalls } from "./answering";

/** What the reading thread is asked for. */
function methodsOf(history: HistoryReader) {
  return {
    page: (input: Parameters<HistoryReader["page"]>[0]) => history.page(input),
    turnsSaying: (input: Parameters<HistoryReader["turnsSaying"]>[0]) => history.turnsSaying(input),
    ids: ({ app, filter, most }: { app: string; filter: Filter; most: number }) => history.ids(app, filter, most),
    choices: ({ app }: { app: string }) => history.choices(app),
  };
}
export type ReaderMethods = ReturnType<typeof methodsOf>;

const { folder } = workerData.given as { folder: string };
answerCalls(methodsOf(new HistoryReader(openForReading(folder))));
