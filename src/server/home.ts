import type { HasApps } from "./apps/app-store";
import type { HasContents } from "./apps/content-store";
import type { HasReader, HasWriter } from "./archive/threads";
import type { HasJudges } from "./checks/judge-store";
import type { HasRuns } from "./checks/run-store";
import type { HasScripts } from "./checks/script-store";
import type { HasScriptWatch } from "./checks/scripts";
import type { HasComparisons } from "./comparing/comparison-store";
import type { HasDuetRunner } from "./comparing/duet-runner";
import type { HasDuets } from "./comparing/duet-store";
import type { HasLaneRunner } from "./comparing/lane-runner";
import type { HasSets } from "./comparing/set-store";
import type { HasBranches } from "./conversations/branch-store";
import type { HasConversations } from "./conversations/conversation-store";
import type { HasHistories } from "./conversations/history-store";
import type { HasMarks } from "./conversations/mark-store";
import type { HasMessages } from "./conversations/message-store";
import type { HasPins } from "./conversations/pin-store";
import type { HasSummaries } from "./conversations/summary-store";
import type { HasDatabase, HasFolder } from "./database/database";
import type { HasErasing } from "./database/erasing";
import type { HasPacking, HasRemoval } from "./database/slices";
import type { HasStorage } from "./database/storage-watch";
import type { HasDispatches } from "./dispatches/dispatch-store";
import type { HasCalls } from "./entrance/call-store";
import type { HasLimits } from "./entrance/limits";
import type { HasRevocations } from "./entrance/revocations";
import type { HasTokens } from "./entrance/token-store";
import type { HasUploads } from "./entrance/upload-store";
import type { HasVisitors } from "./entrance/visitor-store";
import type { HasCredentials } from "./exchange/credentials";
import type { HasFiles } from "./files/file-store";
import type { HasEnd } from "./ground/ending";
import type { HasLog } from "./ground/log";
import type { HasCaught } from "./guards/caught-store";
import type { HasJobs } from "./jobs/job-store";
import type { HasRunner } from "./jobs/runner";
import type { HasSteps } from "./jobs/step-store";
import type { HasChanges } from "./live/changes";
import type { HasEvents } from "./live/event-store";
import type { HasHub } from "./live/hub";
import type { HasMeans } from "./making/types";
import type { HasProviders } from "./providers/provider-store";
import type { HasRecordings } from "./recordings/recording-store";
import type { HasIdempotency } from "./replies/idempotency-store";
import type { HasSeal } from "./security/seal";
import type { HasSigner } from "./security/secret";
import type { HasMeaning } from "./sources/by-meaning";
import type { HasDocuments } from "./sources/document-store";
import type { HasFolderWatch } from "./sources/folders";
import type { HasPassages } from "./sources/passage-store";
import type { HasRetrieval } from "./sources/retrieval-store";
import type { HasSources } from "./sources/source-store";
import type { HasVectors } from "./sources/vector-store";
import type { HasVisitorDocuments } from "./sources/visitor-document-store";
import type { HasReservations } from "./spend/reservations";
import type { HasSpend } from "./spend/spend-store";
import type { HasSummarising } from "./summaries/summarising";
import type { HasToolMeans } from "./tools/answering";
import type { HasSecrets } from "./tools/secret-store";

/** Where the one of everything is kept: Next loads a module several times in one process. */
export const homeKey = Symbol.for("unruly-finch.boot");

/** The one of everything, where it was made already. */
export function openHome(): Home | undefined {
  return (globalThis as { [homeKey]?: Home })[homeKey];
}

/** What one process has one of. Nobody gets all of it but who puts it together: each names what it uses. */
export interface Home
  extends HasFolder,
    HasDatabase,
    HasStorage,
    HasContents,
    HasApps,
    HasConversations,
    HasMessages,
    HasBranches,
    HasMarks,
    HasPins,
    HasSummaries,
    HasSummarising,
    HasToolMeans,
    HasChanges,
    HasHistories,
    HasDispatches,
    HasEvents,
    HasIdempotency,
    HasProviders,
    HasRecordings,
    HasVisitors,
    HasTokens,
    HasCalls,
    HasLimits,
    HasRevocations,
    HasSpend,
    HasReservations,
    HasHub,
    HasComparisons,
    HasSets,
    HasDuets,
    HasDuetRunner,
    HasLaneRunner,
    HasScripts,
    HasScriptWatch,
    HasRuns,
    HasJudges,
    HasCaught,
    HasReader,
    HasWriter,
    HasJobs,
    HasRunner,
    HasSteps,
    HasSigner,
    HasSeal,
    HasSecrets,
    HasCredentials,
    HasMeans,
    HasFiles,
    HasSources,
    HasDocuments,
    HasPassages,
    HasVectors,
    HasRetrieval,
    HasMeaning,
    HasFolderWatch,
    HasUploads,
    HasVisitorDocuments,
    HasRemoval,
    HasErasing,
    HasPacking,
    HasLog,
    HasEnd {
  /**
   * Ends in good order: replies go on for so many milliseconds, those that are left then are interrupted,
   * readers are sent away, and the data folder is let go of.
   */
  leave(patience: number): Promise<void>;
  /** Lets go of the data folder at once. */
  close(): void;
}
