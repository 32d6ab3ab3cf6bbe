import type { Work } from "@/core/jobs/work";
import type { HasWriter } from "../archive/threads";
import type { HasFolder } from "../database/database";
import { DocumentReader } from "../sources/reading";
import { type CheckRunNeeds, endRun, runChecks } from "./check-run";
import { type DigestNeeds, runDigest } from "./digest-job";
import { letGoOfImport, runImport, undoImport } from "./import-job";
import { type JudgingJobNeeds, runJudging } from "./judging-job";
import { answerFromPages, type PagesNeeds, runPages } from "./pages-job";
import { type ProposingNeeds, runProposing } from "./proposing-job";
import { OneByOne, type ReadingNeeds, runReading } from "./reading-job";
import { type RetrievalNeeds, runRetrieval } from "./retrieval-job";
import type { Kind } from "./runner";
import { runSayAgain, type SayAgainNeeds } from "./say-again";
import { endSet, runSet, type SetRunNeeds } from "./set-run";
import { runVectors, type VectorsNeeds } from "./vectors-job";

/** What of the process is used here. */
export type KindsNeeds = SayAgainNeeds &
  CheckRunNeeds &
  SetRunNeeds &
  JudgingJobNeeds &
  ReadingNeeds &
  VectorsNeeds &
  RetrievalNeeds &
  ProposingNeeds &
  DigestNeeds &
  PagesNeeds &
  HasFolder &
  HasWriter;

/** Every kind of long work, done with what the process has one of. */
export function kindsFor(home: () => KindsNeeds): Record<Work["kind"], Kind> {
  const reading = { turns: new OneByOne(), reader: new DocumentReader() };
  return {
    import: {
      run: (job, signal, wrote) => runImport(home(), job, signal, wrote),
      undo: (id) => undoImport(home(), id),
      left: (job) => letGoOfImport(home(), job),
      leave(id) {
        const { writer, log } = home();
        writer.call("leave", { job: id }).catch((error) => log.error({ error }, "the writing thread is gone"));
      },
    },
    "say-again": { run: (job, signal) => runSayAgain(home(), job, signal), left: () => true },
    checks: {
      run: (job, signal) => runChecks(home(), job, signal),
      undo: (id) => endRun(home(), id),
      left: () => true,
      isLeftWhole: true,
    },
    set: {
      run: (job, signal) => runSet(home(), job, signal),
      undo: (id) => endSet(home(), id),
      left: () => true,
      isLeftWhole: true,
    },
    judging: { run: (job, signal) => runJudging(home(), job, signal), left: () => true, isLeftWhole: true },
    pages: {
      run: (job, signal) => runPages(home(), job, signal, reading.reader),
      undo: (id) => answerFromPages(home(), id),
      left: () => true,
      isLeftWhole: true,
    },
    vectors: { run: (job, signal) => runVectors(home(), job, signal), left: () => true, isLeftWhole: true },
    retrieval: {
      run: (job, signal) => runRetrieval(home(), job, signal, reading),
      left: () => true,
      isLeftWhole: true,
    },
    digest: { run: (job, signal) => runDigest(home(), job, signal), left: () => true, isLeftWhole: true },
    proposing: { run: (job, signal) => runProposing(home(), job, signal), left: () => true, isLeftWhole: true },
    reading: { run: (job, signal) => runReading(home(), job, signal, reading), left: () => true, isLeftWhole: true },
  };
}
