import { join } from "node:path";
import type { Logger } from "pino";
import { keptDays } from "@/core/serving/sent";
import { AppStore } from "./apps/app-store";
import { ContentStore } from "./apps/content-store";
import type { ReaderMethods } from "./archive/reader";
import { Thread } from "./archive/thread";
import type { WriterMethods } from "./archive/writer";
import { JudgeStore } from "./checks/judge-store";
import { RunStore } from "./checks/run-store";
import { ScriptStore } from "./checks/script-store";
import { ScriptWatch } from "./checks/scripts";
import { leaveComparisons } from "./comparing/comparing";
import { ComparisonStore } from "./comparing/comparison-store";
import { DuetRunner } from "./comparing/duet-runner";
import { DuetStore } from "./comparing/duet-store";
import { leaveDuets } from "./comparing/duets";
import { LaneRunner } from "./comparing/lane-runner";
import { SetStore } from "./comparing/set-store";
import { BranchStore } from "./conversations/branch-store";
import { ConversationStore } from "./conversations/conversation-store";
import { HistoryStore } from "./conversations/history-store";
import { MarkStore } from "./conversations/mark-store";
import { MessageStore } from "./conversations/message-store";
import { PinStore } from "./conversations/pin-store";
import { SummaryStore } from "./conversations/summary-store";
import { openDatabase } from "./database/database";
import { Erasing } from "./database/erasing";
import { lockFolder } from "./database/lock";
import { keepSettled } from "./database/settling";
import { Slices } from "./database/slices";
import { storageProblem } from "./database/storage";
import { StorageWatch } from "./database/storage-watch";
import { DispatchStore } from "./dispatches/dispatch-store";
import { CallStore } from "./entrance/call-store";
import { Limits } from "./entrance/limits";
import { Revocations } from "./entrance/revocations";
import { TokenStore } from "./entrance/token-store";
import { UploadStore } from "./entrance/upload-store";
import { VisitorStore } from "./entrance/visitor-store";
import { Credentials } from "./exchange/credentials";
import { FileStore } from "./files/file-store";
import { openLog } from "./ground/log";
import { CaughtStore } from "./guards/caught-store";
import { type Home, homeKey } from "./home";
import { runDueChecks } from "./jobs/check-schedule";
import { sweepImports } from "./jobs/import-job";
import { JobStore } from "./jobs/job-store";
import { kindsFor } from "./jobs/kinds";
import { wantReading } from "./jobs/reading-job";
import { JobRunner } from "./jobs/runner";
import { StepStore } from "./jobs/step-store";
import { Changes } from "./live/changes";
import { EventStore } from "./live/event-store";
import { ReplyHub } from "./live/hub";
import { Gate } from "./making/gate";
import type { Means } from "./making/types";
import { takeOutLogins } from "./providers/logins";
import { ProviderStore } from "./providers/provider-store";
import { RecordingStore } from "./recordings/recording-store";
import { IdempotencyStore } from "./replies/idempotency-store";
import { recoverReplies } from "./replies/recover";
import { Scrubber } from "./security/scrub";
import { sealOf } from "./security/seal";
import { signerOf } from "./security/secret";
import { Meaning } from "./sources/by-meaning";
import { DocumentStore } from "./sources/document-store";
import { FolderWatch, readFolder } from "./sources/folders";
import { PassageStore } from "./sources/passage-store";
import { RetrievalStore } from "./sources/retrieval-store";
import { SourceStore } from "./sources/source-store";
import { VectorStore } from "./sources/vector-store";
import { VisitorDocumentStore } from "./sources/visitor-document-store";
import { Reservations } from "./spend/reservations";
import { SpendStore } from "./spend/spend-store";
import { Summarising } from "./summaries/summarising";
import { deleteSome, forgetDocument } from "./tending/deleting";
import { OpenCalls } from "./tools/open-calls";
import { SecretStore } from "./tools/secret-store";

/** Replies whose events are packed in one transaction. */
const packedAtOnce = 5;
/** Contents to which nothing points that are deleted in one transaction. */
const sweptAtOnce = 500;
const minute = 60 * 1000;
const hour = 60 * minute;
/** Milliseconds that a deletion can be taken back, and that the events of a reply are kept as they are. */
const day = 24 * hour;

/**
 * Opens a data folder for this process: locks it, brings the tables up to date, and ends what a
 * dead process left.
 * @throws {FolderInUse} and errors of the system and of SQLite
 */
export function openFolder(folder: string, openLogWith: (hide: (text: string) => string) => Logger = openLog): Home {
  const unlock = lockFolder(folder);
  const database = openDatabase(folder);
  const events = new EventStore(database);
  const seal = sealOf(folder);
  const runsCommands = process.env.FINCH_COMMANDS === "on";
  const credentials = new Credentials(seal, runsCommands);
  const log = openLogWith((text) => Scrubber.text(text, credentials.seen));
  const contents = new ContentStore(database);
  const secrets = new SecretStore(database, seal);
  const files = new FileStore(database, join(folder, "files"));
  const vectors = new VectorStore(database);
  const documents = new DocumentStore(database, join(folder, "documents"));
  const passages = new PassageStore(database);
  const apps = new AppStore(database, contents);
  const conversations = new ConversationStore(database);
  const messages = new MessageStore(database);
  const branches = new BranchStore(database);
  const dispatches = new DispatchStore(database);
  const visitors = new VisitorStore(database);
  const storage = new StorageWatch();
  const hub = new ReplyHub(database, events, log);
  const removal = new Slices(database, storage, log, "what was deleted is out of sight, but still takes room", () =>
    deleteSome({ conversations, branches, apps, events, visitors, documents, passages, vectors }),
  );
  const packing = new Slices(
    database,
    storage,
    log,
    "what has ended could not be packed",
    () => dispatches.packOne() || events.pack(Date.now() - day, packedAtOnce),
  );
  const reader = new Thread<ReaderMethods>("reader", { folder }, log);
  const writer = new Thread<WriterMethods>("writer", { folder }, log);
  const erasing = new Erasing(database, removal, () => writer.call("erase", null), storage, log);
  const endSettling = keepSettled(database, () => writer.call("settle", null), storage, log);
  const jobs = new JobStore(database);
  const changes = new Changes();
  let isClosing = false;
  const boot: Home = {
    folder,
    database,
    storage,
    contents,
    apps,
    conversations,
    messages,
    branches,
    marks: new MarkStore(database),
    pins: new PinStore(database),
    summaries: new SummaryStore(database),
    summarising: new Summarising(() => boot),
    changes,
    histories: new HistoryStore(database),
    dispatches,
    events,
    idempotency: new IdempotencyStore(database),
    providers: new ProviderStore(database),
    visitors,
    tokens: new TokenStore(database, seal),
    calls: new CallStore(database),
    limits: new Limits(),
    revocations: new Revocations(),
    spend: new SpendStore(database),
    reservations: new Reservations(),
    hub,
    comparisons: new ComparisonStore(database),
    laneRunner: new LaneRunner(() => boot),
    sets: new SetStore(database),
    duets: new DuetStore(database),
    duetRunner: new DuetRunner(() => boot),
    scripts: new ScriptStore(database),
    scriptWatch: new ScriptWatch(changes),
    runs: new RunStore(database),
    judges: new JudgeStore(database),
    caught: new CaughtStore(database),
    retrieval: new RetrievalStore(database),
    reader,
    writer,
    jobs,
    steps: new StepStore(database),
    runner: new JobRunner({
      jobs,
      storage,
      log,
      tell: () => changes.tellJobs(),
      isClosing: () => isClosing,
      kinds: kindsFor(() => boot),
    }),
    removal,
    erasing,
    packing,
    signer: signerOf(folder),
    seal,
    credentials,
    means: meansOf(credentials, files),
    secrets,
    recordings: new RecordingStore(database),
    toolMeans: {
      runsCommands,
      openCalls: new OpenCalls(),
      secretOf(app, name) {
        const had = secrets.read(app, name);
        if ("value" in had) credentials.saw(had.value);
        return had;
      },
    },
    files,
    documents,
    sources: new SourceStore(database),
    passages,
    vectors,
    meaning: new Meaning((input) => reader.call("nearest", input)),
    folderWatch: new FolderWatch((app, path) => readAnew(boot, app, path)),
    uploads: new UploadStore(database),
    visitorDocuments: new VisitorDocumentStore(database),
    log,
    isClosing: () => isClosing,
    async leave(patience) {
      isClosing = true;
      await boot.runner.leave();
      await hub.emptied(patience);
      await boot.summarising.leave();
      hub.sendAway();
      // whoever waited for a reply reads how it ended before the file is closed
      await new Promise(setImmediate);
      boot.close();
    },
    close() {
      isClosing = true;
      boot.summarising.close();
      boot.scriptWatch.close();
      boot.folderWatch.close();
      clearInterval(upkeep);
      clearInterval(schedule);
      endSettling();
      removal.close();
      erasing.close();
      packing.close();
      void reader.close();
      void writer.close();
      database.close();
      unlock();
    },
  };
  const interrupted = recoverReplies(boot);
  if (interrupted > 0) log.info({ replies: interrupted }, "replies were interrupted by the last stop");
  takeOutLogins(boot);
  const keepUp = () => {
    conversations.leaveHidden(Date.now() - day);
    conversations.leavePassing(Date.now());
    for (const { id } of apps.all()) boot.calls.forget(id);
    boot.idempotency.forget(Date.now());
    boot.jobs.forget(Date.now() - 7 * day);
    leaveComparisons(boot, Date.now() - day);
    leaveDuets(boot, Date.now() - day);
    boot.sets.deleteHidden(Date.now() - day);
    contents.sweep(Date.now() - day, sweptAtOnce);
    files.sweep(Date.now() - day, sweptAtOnce);
    documents.sweep(Date.now() - day, sweptAtOnce);
    vectors.sweep(sweptAtOnce);
    void boot.runner.letGo(Date.now() - 7 * day);
    for (const document of boot.visitorDocuments.unused(Date.now() - keptDays * day, sweptAtOnce))
      forgetDocument(boot, document).catch((error) =>
        log.error({ error }, "a document that nobody uses could not be forgotten; it is tried again in an hour"),
      );
    // what was hidden, or passed through, is over without anybody's call
    if (conversations.nextLeaving() !== undefined || documents.nextLeaving() !== undefined) erasing.want(Date.now());
    void removal.start();
    void erasing.start();
    void packing.start();
  };
  const upkeep = setInterval(() => {
    try {
      keepUp();
    } catch (error) {
      log.error({ error }, "what is over could not be forgotten; it is tried again in an hour");
    }
  }, hour);
  upkeep.unref();
  const schedule = setInterval(() => {
    try {
      runDueChecks(boot, Date.now());
    } catch (error) {
      log.error({ error }, "checks could not be run by themselves; it is tried again in a minute");
    }
  }, minute);
  schedule.unref();
  keepUp();
  sweepImports(boot);
  boot.runner.resume();
  boot.laneRunner.resume();
  boot.duetRunner.resume();
  for (const { id } of apps.all()) boot.folderWatch.watch(id, boot.sources.folders(id));
  return boot;
}

/** Takes what changed in a folder of an app's documents, and has it read. */
function readAnew(home: Home, id: string, path: string): void {
  try {
    readFolder(home, id, path);
    const app = home.apps.byId(id);
    if (!app) return;
    wantReading(home, app);
    home.changes.tell(app.slug);
  } catch (error) {
    home.log.error({ error, path }, "a folder of documents could not be read");
  }
}

function meansOf(credentials: Credentials, files: FileStore): Means {
  return {
    resolve: (connection) => credentials.resolve(connection),
    forget: (connection) => credentials.forget(connection),
    hasToken: (connection) => credentials.hasToken(connection),
    sign: (...given) => credentials.sign(...given),
    gate: new Gate(),
    files,
  };
}

/**
 * The one of everything, made at the first call. Next loads a module several times in one process,
 * so it is kept on `globalThis`.
 */
export function boot(): Home {
  const home = globalThis as { [homeKey]?: Home };
  home[homeKey] ??= openFolder(process.env.FINCH_DATA ?? "data");
  return home[homeKey];
}

/** Opens the data folder at the start of the process, where a data folder that can't be opened ends it with a plain message. */
export function bootOrExit(): void {
  try {
    boot();
  } catch (error) {
    const failure = storageProblem(error);
    console.error(failure ? `${failure.detail} ${failure.advice}` : (error as Error).message);
    process.exit(1);
  }
}
