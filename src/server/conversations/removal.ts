import type { Logger } from "pino";
import type { AppStore } from "../apps/app-store";
import type { Database } from "../database/database";
import type { ConversationStore } from "./conversation-store";

/** Messages that are deleted in one transaction, which stays within some milliseconds. */
const sliceSize = 20;

/**
 * Deletes for good what was marked as leaving: conversations, and apps with all of theirs. It goes on in
 * slices, with rests at least as long between them, so that no reply waits for it; what a stop of the
 * process leaves is gone on with at the next start. A conversation is deleted deepest message first, so
 * that nothing is deleted along with anything.
 */
export class Removal {
  private running: Promise<void> | undefined;
  private isClosed = false;

  constructor(
    private readonly database: Database,
    private readonly conversations: ConversationStore,
    private readonly apps: AppStore,
    private readonly log: Logger,
  ) {}

  /** Begins, unless it is under way; resolves when nothing is left. */
  start(): Promise<void> {
    this.running ??= this.run();
    return this.running;
  }

  /** Leaves off after the slice that is being deleted. */
  close(): void {
    this.isClosed = true;
  }

  private async run(): Promise<void> {
    // what was just marked is told to those who asked before it goes
    await rest(0);
    try {
      while (!this.isClosed) {
        const began = performance.now();
        if (!this.database.transaction(() => this.slice())()) break;
        await rest(performance.now() - began);
      }
    } catch (error) {
      this.log.error({ error }, "what was deleted is out of sight, but still takes room; it is tried again later");
    } finally {
      this.running = undefined;
    }
  }

  /** Deletes some; false when nothing is left. */
  private slice(): boolean {
    const conversation = this.conversations.nextLeaving();
    if (conversation === undefined) return this.apps.deleteLeft();
    if (!this.conversations.deleteDeepest(conversation, sliceSize)) this.conversations.delete(conversation);
    return true;
  }
}

function rest(milliseconds: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, milliseconds));
}
