import type { ServerResponse } from "node:http";
import { beforeEach, expect } from "vitest";
import { toldAll } from "@/core/reply/told";
import type { Content } from "@/core/revision/content";
import { wholeAnswer } from "../../answers/replies";
import type { StoredSummary } from "../../conversations/summary-store";
import type { Home } from "../../home";
import { ask, bench } from "../../replies/ask";
import { streams, TestApp } from "../../test/app";

/** What a provider is asked. */
interface Sent {
  model: string;
  messages: { role: string; content: string }[];
}

export const memory = { kind: "summary", turns: 2 } as const;

/** An app whose memory carries a running summary, and a provider that tells calls for one from others. */
export class Summing {
  /** What was asked for summaries, and for replies. */
  summing: Sent[] = [];
  replying: Sent[] = [];
  /** Answers a call for a summary. */
  sumUp!: (response: ServerResponse, count: number) => void;

  private constructor(readonly on: TestApp) {}

  /** One that is made anew for each test of a file. */
  static each(): Summing {
    const of = new Summing(TestApp.each());
    beforeEach(() => of.start());
    return of;
  }

  get home(): Home {
    return this.on.home;
  }

  private start(): void {
    const { on } = this;
    const price = { input: 1_000_000, output: 2_000_000, currency: "EUR" };
    on.home.providers.putModels(on.provider, [
      { name: "m", window: 4_000, price },
      { name: "small", window: 400, price },
    ]);
    this.summing = [];
    this.replying = [];
    this.sumUp = (response, count) => say(response, `Summary ${count}.`);
    on.respond = (response, body) => {
      const sent = JSON.parse(body) as Sent;
      if (/^(?:Sum up|Shorten)/.test(sent.messages[0]?.content ?? "")) {
        this.summing.push(sent);
        this.sumUp(response, this.summing.length);
      } else {
        this.replying.push(sent);
        say(response, `Answer ${this.replying.length}.`);
      }
    };
    this.edit({});
  }

  edit(change: Partial<Content>): void {
    const { on } = this;
    on.app = on.home.apps.setDraft(on.app, on.content({ memory, ...change }), 1);
  }

  /** Keeps the next call for a summary waiting, until the test answers it. */
  held(): { response: ServerResponse | undefined } {
    const late: { response: ServerResponse | undefined } = { response: undefined };
    this.sumUp = (response) => {
      late.response = response;
    };
    return late;
  }

  /** Says something, and waits for the reply. */
  async said(message: string, where: { conversation?: string; after?: string } = {}) {
    const head = ask(this.home, this.on.app, bench, { message, ...where });
    await wholeAnswer(this.home, head.reply, toldAll);
    return head;
  }

  /** So many turns in a new conversation. @returns its id, the replies, and the visitor's messages */
  async talk(turns: number): Promise<{ conversation: string; replies: string[]; messages: string[] }> {
    const replies: string[] = [];
    const messages: string[] = [];
    let conversation: string | undefined;
    for (let turn = 1; turn <= turns; turn += 1) {
      const head = await this.said(`Question ${turn}?`, { conversation });
      conversation = head.conversation;
      replies.push(head.reply);
      messages.push(head.message);
      await this.settled(conversation);
    }
    return { conversation: conversation ?? "", replies, messages };
  }

  /** Waits until no summary is made any more. */
  async settled(conversation: string): Promise<void> {
    await expect.poll(() => this.home.summarising.standing(conversation)?.state).not.toBe("making");
  }

  /** The summaries of the line that is shown, the newest first. */
  kept(conversation: string): StoredSummary[] {
    const { home } = this;
    return home.summaries.ofLine(conversation, home.conversations.byId(conversation)?.tip ?? "");
  }
}

/** Answers in one piece. */
export function say(response: ServerResponse, text: string, finish = "stop"): void {
  streams([text], finish)(response);
}

/** All that was sent, in one text. */
export function whole(sent: Sent | undefined): string {
  return sent?.messages.map((each) => each.content).join("\n") ?? "";
}
