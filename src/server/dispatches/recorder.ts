import type { ConversationStore } from "../conversations/conversation-store";
import type { Slices } from "../database/slices";
import type { Work } from "../database/work";
import type { BegunDispatch, EndedDispatch, Sink } from "../making/types";
import type { ProviderStore } from "../providers/provider-store";
import type { SpendStore, SpentOn } from "../spend/spend-store";
import type { DispatchStore } from "./dispatch-store";

/** Bytes that are written together, and milliseconds after which they are in any case. */
const partSize = 64 * 1024;
const partMs = 1000;

/** What keeps a making's dispatches. */
export interface Keeping {
  dispatches: DispatchStore;
  providers: Pick<ProviderStore, "learn" | "hearVersion">;
  spend: SpendStore;
  conversations: Pick<ConversationStore, "spend">;
  /** Packs what has ended. */
  packing: Slices;
}

/**
 * Keeps the dispatches of a making: requests, bytes with their arrival times, how they came out, what
 * they cost. Bytes are written in large parts: the last second of them may be lost.
 */
export class DispatchRecorder implements Pick<Sink, "begin" | "bytes" | "leaveOutBytes" | "end"> {
  private pending: Buffer[] = [];
  private arrivals: string[] = [];
  private firstAt = 0;
  private size = 0;
  private isDue = false;
  private isLeftOut = false;
  private seq = 0;
  private begun: BegunDispatch | undefined;

  /**
   * @param conversation that it is made for
   * @param commit has work done in a transaction, now or a little later
   */
  constructor(
    private readonly keeping: Keeping,
    private readonly making: string,
    private readonly spentOn: SpentOn,
    private readonly conversation: string | null,
    private readonly commit: (work: Work) => void,
  ) {}

  begin(dispatch: BegunDispatch): void {
    this.begun = dispatch;
    this.seq = 0;
    this.isLeftOut = false;
    this.keeping.dispatches.begin(this.making, dispatch);
  }

  bytes(dispatch: string, bytes: Buffer, at: number): void {
    if (this.pending.length === 0) this.firstAt = at;
    this.pending.push(bytes);
    this.arrivals.push(`${at}:${bytes.length}`);
    this.size += bytes.length;
    if (this.isDue || (this.size < partSize && at - this.firstAt < partMs)) return;
    this.isDue = true;
    this.commit(() => this.write(dispatch));
  }

  leaveOutBytes(dispatch: string): void {
    this.isLeftOut = true;
    this.commit(() => {
      this.keeping.dispatches.emptyChunks(dispatch);
      return undefined;
    });
  }

  end(dispatch: EndedDispatch): void {
    const { dispatches, providers, spend, conversations, packing } = this.keeping;
    const { begun } = this;
    this.commit(() => {
      const committed = this.write(dispatch.id);
      dispatches.finish(dispatch);
      const { usage, counted, version, endedAt } = dispatch;
      if (begun && usage) spend.add(this.spentOn, begun, usage, endedAt);
      if (usage && this.conversation !== null) conversations.spend(this.conversation, usage.price, usage.currency);
      if (begun) providers.learn(begun.providerId, begun.model, counted);
      if (begun && version) providers.hearVersion(begun.providerId, begun.model, version, endedAt);
      return () => {
        committed?.();
        void packing.start();
      };
    });
  }

  /** Writes what is pending; what it gives takes note that this was committed. */
  private write(dispatch: string): (() => void) | undefined {
    const { seq, pending, arrivals } = this;
    if (pending.length === 0) return undefined;
    const bytes = this.isLeftOut ? Buffer.alloc(0) : Buffer.concat(pending);
    this.keeping.dispatches.addChunk({ dispatch, seq, at: this.firstAt, arrivals: arrivals.join(" "), bytes });
    return () => {
      if (this.seq !== seq || this.pending !== pending) return;
      this.seq += 1;
      this.pending = [];
      this.arrivals = [];
      this.size = 0;
      this.isDue = false;
    };
  }
}
