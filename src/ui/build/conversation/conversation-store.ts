import type { Client } from "@/contract/client";
import { type BenchLine, benchConversations } from "@/contract/conversations";
import { type BenchEvent, benchReplies, type MessageCall, type ReplyCall } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import { isLast } from "@/core/reply/events";
import { isUnderWay } from "@/core/reply/reply";
import type { KeptTexts } from "../../shared/kept-texts";
import type { LiveReplies } from "../../shared/live-replies";
import type { KeptPictures } from "../../shared/pictures/kept-pictures";
import { Store } from "../../shared/store";
import type { DraftStore } from "../draft/draft-store";
import { type Conversation, underWayIn, unread, withEarlier, withEnd, withEnded, withPages } from "./conversation";

/** Under what name the words of a conversation are kept until they are sent. */
export function textName(conversation: string): string {
  return `finch.composer.${conversation}`;
}

/** A message of pictures, by their files, and a text. */
export function messageOf(pictures: readonly { file: string }[], text: string): MessageCall["message"] {
  if (pictures.length === 0) return text;
  const words = text.trim() === "" ? [] : [{ kind: "text" as const, text }];
  return [...pictures.map(({ file }) => ({ kind: "picture" as const, file })), ...words];
}

/** What stands unfolded at a message: one thing at one place. */
export interface Unfolded {
  message: string;
  what: "dispatch" | "question" | "beside" | "takes" | "correction" | "change" | "fault";
}

export interface ConversationState extends Conversation {
  /** Whether a message is on its way to the server. */
  isSending: boolean;
  /** Whether what is written goes out when the reply that arrives has ended. */
  waits: boolean;
  unfolded: Unfolded | undefined;
  /** Why the last thing that was done in it failed, until the next is done. */
  failure: Problem | undefined;
  /** Why it could not be read. */
  unreadable: Problem | undefined;
}

/** What a conversation uses of the tab that it is open in. */
export interface ConversationMeans {
  slug: string;
  server: Pick<Client, "send">;
  live: LiveReplies;
  texts: KeptTexts;
  pictures: KeptPictures;
  draft: Pick<DraftStore, "save">;
  /** Is told that something was said, which lists and sums may show. */
  tellSaid: () => void;
  /** What went wrong, as a problem. @param what was done, as it stands at the beginning of a sentence */
  problemIn: (error: unknown, what: string) => Problem;
}

/**
 * The one owner of an open conversation: its line, what is written and waits in it, and all that is done in it. What is
 * sent, and what waits, belongs to it whichever conversation is shown by then.
 */
export class ConversationStore extends Store<ConversationState> {
  private readonly leaving: (() => void)[];
  /** How often its end was asked for: what was asked for first may come last, and knows less. */
  private asked = 0;

  constructor(
    id: string,
    isBegun: boolean,
    private readonly means: ConversationMeans,
  ) {
    super({
      ...unread(id, isBegun),
      isSending: false,
      waits: false,
      unfolded: undefined,
      failure: undefined,
      unreadable: undefined,
    });
    const { live } = means;
    this.leaving = [
      live.watch(id),
      live.onTurn((heard) => heard.conversation === id && this.hear(heard)),
      live.onChange((changed) => changed === id && void this.readAgain()),
      live.onMissed(() => this.state.isBegun && void this.readAgain()),
    ];
    if (isBegun) void this.readAgain();
  }

  get id(): string {
    return this.state.id;
  }

  /** Whether it has to stay, though nobody looks at it. */
  get isBusy(): boolean {
    return this.state.isSending || this.state.waits;
  }

  /** Lets go of it. */
  close(): void {
    for (const leave of this.leaving) leave();
  }

  /** Sends what is written in it, or has it wait for the reply that arrives; what was not taken stands there again. */
  readonly send = async (): Promise<void> => {
    const { texts, pictures } = this.means;
    const name = textName(this.id);
    const [text, beside] = [texts.read(name), pictures.read(name)];
    if ((text.trim() === "" && beside.length === 0) || this.state.isSending) return;
    if (underWayIn(this.state)) return this.wait(true);
    this.set({ ...this.state, isSending: true, waits: false });
    texts.write(name, "");
    pictures.write(name, []);
    const { id, isBegun } = this.state;
    const isTaken = await this.ask({ message: messageOf(beside, text), conversation: isBegun ? id : undefined });
    if (!isTaken) {
      texts.giveBack(name, text);
      pictures.giveBack(name, beside);
    }
    this.set({ ...this.state, isSending: false });
  };

  readonly wait = (waits: boolean): void => {
    if (this.state.waits !== waits) this.set({ ...this.state, waits });
  };

  /** Asks for a reply on the draft, once that is stored; gives whether it was taken. */
  readonly ask = (call: ReplyCall): Promise<boolean> =>
    this.done("The message", async () => {
      const { slug, server, live, draft, tellSaid } = this.means;
      await draft.save();
      const begins = this.state.isBegun ? undefined : this.id;
      await live.ask(() => server.send(benchReplies.ask, { slug, begins, body: call }));
      this.set({ ...this.state, isBegun: true });
      tellSaid();
      await this.readEnd();
    });

  /** Stops a reply, or the one that is under way; gives whether there is one. */
  readonly stop = (reply = underWayIn(this.state)?.id): boolean => {
    if (reply === undefined) return false;
    void this.done("Stopping", () => this.means.server.send(benchReplies.stop, { id: reply }));
    return true;
  };

  /** Does something to what is stored of it, and reads it again; gives whether it was done. */
  readonly change = (work: () => Promise<unknown>): Promise<boolean> =>
    this.done("The change", async () => {
      await work();
      this.means.tellSaid();
      await this.readAgain();
    });

  /** Unfolds something at a message, or folds it where it is unfolded. */
  readonly unfold = (message: string, what: Unfolded["what"]): void => {
    const { unfolded } = this.state;
    const isThere = unfolded?.message === message && unfolded.what === what;
    this.set({ ...this.state, unfolded: isThere ? undefined : { message, what } });
  };

  readonly fold = (): void => {
    if (this.state.unfolded) this.set({ ...this.state, unfolded: undefined });
  };

  readonly readEarlier = async (): Promise<void> => {
    const { id, before } = this.state;
    if (before === null) return;
    await this.reading(async () => {
      const page = await this.page(before);
      this.set({ ...this.state, ...withEarlier(this.state, before, page), id });
    });
  };

  /** Reads as much of its line again as was read. */
  readonly readAgain = async (): Promise<void> => {
    this.asked += 1;
    const turn = this.asked;
    await this.reading(async () => {
      const pages: BenchLine[] = [await this.page()];
      const count = () => pages.reduce((sum, { messages }) => sum + messages.length, 0);
      for (let next = pages[0]?.before; next && count() < this.state.line.length; next = pages.at(-1)?.before)
        pages.push(await this.page(next));
      if (turn === this.asked) this.put(withPages(this.state, pages));
    });
  };

  private async readEnd(): Promise<void> {
    this.asked += 1;
    const turn = this.asked;
    await this.reading(async () => {
      const page = await this.page();
      if (turn === this.asked) this.put(withEnd(this.state, page));
    });
  }

  private page(before?: string): Promise<BenchLine> {
    return this.means.server.send(benchConversations.read, { id: this.id, before });
  }

  private async reading(read: () => Promise<void>): Promise<void> {
    try {
      await read();
      if (this.state.unreadable) this.set({ ...this.state, unreadable: undefined });
    } catch (error) {
      this.set({ ...this.state, unreadable: this.means.problemIn(error, "The conversation") });
    }
  }

  private put(conversation: Conversation): void {
    this.set({ ...this.state, ...conversation });
    for (const message of conversation.line)
      if (message.role === "app" && !isUnderWay(message.state)) this.means.live.forget(message.id);
  }

  private hear({ reply, event }: BenchEvent): void {
    if (!isLast(event)) return void this.readEnd();
    this.set({ ...this.state, ...withEnded(this.state, reply) });
    this.means.tellSaid();
    void this.readEnd();
    if (this.state.waits && !underWayIn(this.state)) void this.send();
  }

  private async done(what: string, work: () => Promise<unknown>): Promise<boolean> {
    if (this.state.failure) this.set({ ...this.state, failure: undefined });
    try {
      await work();
      return true;
    } catch (error) {
      this.set({ ...this.state, failure: this.means.problemIn(error, what) });
      return false;
    }
  }
}
