import type { Logger } from "pino";
import { AppStore } from "./apps/app-store";
import { ConversationStore } from "./conversations/conversation-store";
import { type Database, openDatabase } from "./database/database";
import { lockFolder } from "./database/lock";
import { DispatchStore } from "./dispatches/dispatch-store";
import { openLog } from "./log";
import { Credentials } from "./providers/credentials";
import { ProviderStore } from "./providers/provider-store";
import { EventStore } from "./replies/event-store";
import { ReplyHub } from "./replies/hub";
import { IdempotencyStore } from "./replies/idempotency-store";
import { recoverReplies } from "./replies/recover";
import { type Seal, sealOf } from "./security/seal";
import { type Signer, signerOf } from "./security/secret";
import { VisitorStore } from "./visitors/visitor-store";

/** What one process has one of. */
export interface Boot {
  database: Database;
  apps: AppStore;
  conversations: ConversationStore;
  dispatches: DispatchStore;
  events: EventStore;
  idempotency: IdempotencyStore;
  providers: ProviderStore;
  visitors: VisitorStore;
  hub: ReplyHub;
  signer: Signer;
  seal: Seal;
  credentials: Credentials;
  log: Logger;
  /** Lets go of the data folder. */
  close(): void;
}

const day = 24 * 60 * 60 * 1000;

/**
 * Opens a data folder for this process: locks it, brings the tables up to date, and ends what a
 * dead process left.
 * @throws {FolderInUse}
 */
export function openFolder(folder: string, log: Logger = openLog()): Boot {
  const unlock = lockFolder(folder);
  const database = openDatabase(folder);
  const events = new EventStore(database);
  const seal = sealOf(folder);
  const boot: Boot = {
    database,
    apps: new AppStore(database),
    conversations: new ConversationStore(database),
    dispatches: new DispatchStore(database),
    events,
    idempotency: new IdempotencyStore(database),
    providers: new ProviderStore(database),
    visitors: new VisitorStore(database),
    hub: new ReplyHub(database, events, log),
    signer: signerOf(folder),
    seal,
    credentials: new Credentials(seal),
    log,
    close() {
      database.close();
      unlock();
    },
  };
  const interrupted = recoverReplies(boot);
  if (interrupted > 0) log.info({ replies: interrupted }, "replies were interrupted by the last stop");
  boot.conversations.purge(Date.now() - day);
  boot.idempotency.purge(Date.now() - day);
  return boot;
}

const key = Symbol.for("unruly-finch.boot");

/**
 * The one of everything, made at the first call. Next loads a module several times in one process,
 * so it is kept on `globalThis`.
 */
export function boot(): Boot {
  const home = globalThis as { [key]?: Boot };
  home[key] ??= openFolder(process.env.FINCH_DATA ?? "data");
  return home[key];
}

/** The same at the start of the process, where a data folder that can't be opened ends it with a plain message. */
export function bootOrExit(): void {
  try {
    boot();
  } catch (error) {
    console.error((error as Error).message);
    process.exit(1);
  }
}
