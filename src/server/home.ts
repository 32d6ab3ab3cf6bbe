import type { Logger } from "pino";
import type { AppStore } from "./apps/app-store";
import type { ContentStore } from "./apps/content-store";
import type { BranchStore } from "./conversations/branch-store";
import type { Changes } from "./conversations/changes";
import type { ConversationStore } from "./conversations/conversation-store";
import type { HistoryStore } from "./conversations/history-store";
import type { MarkStore } from "./conversations/mark-store";
import type { MessageStore } from "./conversations/message-store";
import type { PinStore } from "./conversations/pin-store";
import type { Database } from "./database/database";
import type { Slices } from "./database/slices";
import type { StorageWatch } from "./database/storage-watch";
import type { DispatchStore } from "./dispatches/dispatch-store";
import type { Credentials } from "./exchange/credentials";
import type { JobStore } from "./jobs/job-store";
import type { JobRunner } from "./jobs/runner";
import type { Means } from "./making/types";
import type { ProviderStore } from "./providers/provider-store";
import type { EventStore } from "./replies/event-store";
import type { ReplyHub } from "./replies/hub";
import type { IdempotencyStore } from "./replies/idempotency-store";
import type { Seal } from "./security/seal";
import type { Signer } from "./security/secret";
import type { Reservations } from "./spend/reservations";
import type { SpendStore } from "./spend/spend-store";
import type { SummaryStore } from "./summaries/summary-store";
import type { Summariser } from "./summaries/types";
import type { CallStore } from "./visitors/call-store";
import type { Limits } from "./visitors/limits";
import type { Revocations } from "./visitors/revocations";
import type { TokenStore } from "./visitors/token-store";
import type { VisitorStore } from "./visitors/visitor-store";
import type { ReaderMethods } from "./workers/reader";
import type { Thread } from "./workers/thread";
import type { WriterMethods } from "./workers/writer";

/** Where the one of everything is kept: Next loads a module several times in one process. */
export const homeKey = Symbol.for("unruly-finch.boot");

/** The one of everything, where it was made already. */
export function openHome(): Home | undefined {
  return (globalThis as { [homeKey]?: Home })[homeKey];
}

/** What one process has one of. */
export interface Home {
  /** The data folder. */
  folder: string;
  database: Database;
  /** Why those who write in the background can't. */
  storage: StorageWatch;
  contents: ContentStore;
  apps: AppStore;
  conversations: ConversationStore;
  messages: MessageStore;
  branches: BranchStore;
  marks: MarkStore;
  pins: PinStore;
  summaries: SummaryStore;
  /** Makes them. */
  summarising: Summariser;
  changes: Changes;
  histories: HistoryStore;
  dispatches: DispatchStore;
  events: EventStore;
  idempotency: IdempotencyStore;
  providers: ProviderStore;
  visitors: VisitorStore;
  tokens: TokenStore;
  calls: CallStore;
  limits: Limits;
  /** Ends what is read under a token that is revoked. */
  revocations: Revocations;
  spend: SpendStore;
  reservations: Reservations;
  hub: ReplyHub;
  /** Reads what takes long, in a thread of its own. */
  reader: Thread<ReaderMethods>;
  /** Writes what takes long, in another one. */
  writer: Thread<WriterMethods>;
  jobs: JobStore;
  runner: JobRunner;
  signer: Signer;
  seal: Seal;
  credentials: Credentials;
  /** What words of a model are made with. */
  means: Means;
  /** Deletes what was marked as leaving. */
  removal: Slices;
  /** Packs the bytes of dispatches that have ended, and the events of older replies. */
  packing: Slices;
  log: Logger;
  /** Whether the process is about to end, and takes no new replies. */
  isClosing(): boolean;
  /**
   * Ends in good order: replies go on for so many milliseconds, those that are left then are interrupted,
   * readers are sent away, and the data folder is let go of.
   */
  leave(patience: number): Promise<void>;
  /** Lets go of the data folder at once. */
  close(): void;
}
