import { createInterface, type Interface } from "node:readline/promises";
import { conversations } from "@/contract/conversations";
import { openTalk, type Said, type Talk, type TalkState } from "@/module/talk";
import type { Kept } from "./kept";
import type { Paper } from "./paper";

/** What was asked for on the command line. */
export interface TalkWishes {
  at: string;
  as?: string;
  token?: string;
  model?: string;
  new?: boolean;
  json?: boolean;
}

const exit = { answered: 0, failed: 1, wrong: 2, stopped: 130 };
const help = ":new begins a new conversation, :model [name] chooses a model, :reach says what is carried, exit leaves";

/**
 * Talks with an app: one question, what a pipe brings, or a conversation on a terminal that goes on where it was.
 * @returns the exit code
 */
export async function talk(
  slug: string,
  question: string,
  wishes: TalkWishes,
  kept: Kept,
  paper: Paper,
): Promise<number> {
  const session = new Session(slug, wishes, kept, paper);
  try {
    if (question !== "") return await session.ask(question);
    if (!process.stdin.isTTY) return await session.askFromPipe();
    return await session.converse();
  } finally {
    session.close();
  }
}

class Session {
  private readonly app: string;
  private readonly address: string;
  private talk: Talk;
  private model: string | undefined;
  private headers: Record<string, string>;
  private isStopped = false;

  constructor(
    slug: string,
    private readonly wishes: TalkWishes,
    private readonly kept: Kept,
    private readonly paper: Paper,
  ) {
    this.address = wishes.at.replace(/\/$/, "");
    this.app = `${this.address}/api/apps/${encodeURIComponent(slug)}`;
    this.model = wishes.model;
    const place = kept.at(this.address);
    const visitor = wishes.as ?? place.visitor;
    const token = wishes.token ?? process.env.FINCH_TOKEN ?? place.tokens[this.app];
    kept.keep(this.address, {
      ...place,
      visitor,
      tokens: { ...place.tokens, ...(token ? { [this.app]: token } : {}) },
    });
    this.headers = {
      "finch-client": "terminal",
      "finch-visitor": visitor,
      ...(token ? { authorization: `Bearer ${token}` } : {}),
    };
    if (wishes.new) this.keepConversation(null);
    this.talk = this.open();
  }

  /** Asks one thing. */
  async ask(question: string): Promise<number> {
    await this.talk.open();
    const onSignal = () => this.interrupt();
    process.on("SIGINT", onSignal);
    try {
      const taken = await this.answer(question);
      return this.isStopped ? exit.stopped : taken ? exit.answered : exit.failed;
    } finally {
      process.off("SIGINT", onSignal);
    }
  }

  async askFromPipe(): Promise<number> {
    let question = "";
    for await (const part of process.stdin.setEncoding("utf8")) question += part;
    if (question.trim() !== "") return this.ask(question.trim());
    this.paper.warn("Nothing was asked: the pipe brought no text.");
    return exit.wrong;
  }

  /** A conversation, line by line. */
  async converse(): Promise<number> {
    await this.talk.open();
    const { messages, failure } = this.talk.state;
    if (failure) {
      this.paper.warn(`${failure.detail} ${failure.advice}`);
      return exit.failed;
    }
    if (messages.length > 0) this.paper.note(`Going on after: ${opening(messages)}   (:new begins anew)`);
    else this.paper.note(`Talking with ${this.app}   (:help, exit leaves)`);
    const lines = createInterface({ input: process.stdin, output: process.stderr, prompt: "> " });
    // Ctrl+C stops the reply; where there is none, it leaves
    lines.on("SIGINT", () => (this.talk.state.state === "ready" ? lines.close() : this.interrupt()));
    await this.readLines(lines);
    lines.close();
    return exit.answered;
  }

  close(): void {
    this.talk.close();
  }

  private async readLines(lines: Interface): Promise<void> {
    lines.prompt();
    for await (const line of lines) {
      const text = line.trim();
      if (text === "exit") return;
      if (text.startsWith(":")) await this.command(text);
      else if (text !== "") await this.answer(text);
      lines.prompt();
    }
  }

  private async command(line: string): Promise<void> {
    const [name, ...rest] = line.slice(1).split(/\s+/);
    const value = rest.join(" ");
    switch (name) {
      case "new":
        this.talk.begin();
        return this.paper.note("A new conversation.");
      case "model":
        this.model = value || undefined;
        this.talk.close();
        this.talk = this.open();
        await this.talk.open();
        return this.paper.note(value ? `From here on through ${value}.` : "From here on through the app's own model.");
      case "reach":
        return this.reach();
      case "help":
        return this.paper.note(help);
      default:
        return this.paper.warn(`There is no :${name}. ${help}.`);
    }
  }

  /** Says what the next message would carry. */
  private async reach(): Promise<void> {
    const { conversation } = this.talk.state;
    if (conversation === null) return this.paper.note("Nothing was said yet: the system prompt alone is carried.");
    const path = conversations.reach.path.replace(/^.*\{slug\}/, "").replace("{id}", conversation);
    const response = await fetch(this.app + path, { headers: this.headers }).catch(() => undefined);
    if (!response?.ok) return this.paper.warn("What is carried could not be asked for.");
    const { model, provider, turns, leftOut, tokens, window } = conversations.reach.answers[200].schema.parse(
      await response.json(),
    );
    const left = leftOut > 0 ? `, ${leftOut} left out` : "";
    this.paper.note(`${turns} turns${left}, about ${tokens} tokens of ${window}, to ${model} on ${provider}.`);
  }

  /** Says something, and shows the reply as it comes. @returns whether it was answered */
  private async answer(text: string): Promise<boolean> {
    this.isStopped = false;
    let shown = 0;
    const isShown = !this.wishes.json;
    this.paper.wait();
    const leave = this.talk.watch(({ messages, state }) => {
      const reply = messages.at(-1);
      if (state === "ready" || reply?.role !== "app" || !isShown) return;
      const more = reply.text.slice(shown);
      shown = reply.text.length;
      if (more) this.paper.say(more);
    });
    await this.talk.say(text);
    leave();
    const { messages } = this.talk.state;
    const last = messages.at(-1);
    if (isShown && last?.role === "app") this.paper.say(`${last.text.slice(shown)}\n`);
    if (this.wishes.json && last) this.paper.say(`${JSON.stringify(told(last, this.talk.state))}\n`);
    return this.tellEnd(last);
  }

  private tellEnd(last: Said | undefined): boolean {
    if (!last || last.failure) {
      const { detail, advice } = last?.failure ?? { detail: "It was not sent.", advice: "Say it again." };
      this.paper.warn(`${detail} ${advice}`);
      return false;
    }
    if (last.state === "cut") this.paper.note("(cut at the output limit)");
    if (last.state === "stopped") this.paper.note("(stopped)");
    if (last.state === "interrupted") this.paper.warn("(interrupted)");
    return last.state !== "interrupted" && last.state !== "failed";
  }

  private interrupt(): void {
    this.isStopped = true;
    void this.talk.stop();
  }

  private open(): Talk {
    const { "finch-visitor": visitor, authorization } = this.headers;
    return openTalk({
      app: this.app,
      client: "terminal",
      visitor,
      token: authorization?.slice("Bearer ".length),
      with: this.model ? { model: this.model } : undefined,
      keep: {
        getItem: (name) =>
          (name.startsWith("finch conversation") ? this.place().conversations[this.app] : null) ?? null,
        setItem: (name, value) => name.startsWith("finch conversation") && this.keepConversation(value),
        removeItem: (name) => name.startsWith("finch conversation") && this.keepConversation(null),
      },
    });
  }

  private place() {
    return this.kept.at(this.address);
  }

  private keepConversation(id: string | null): void {
    const place = this.place();
    const { [this.app]: _before, ...others } = place.conversations;
    this.kept.keep(this.address, { ...place, conversations: id === null ? others : { ...others, [this.app]: id } });
  }
}

function opening(messages: readonly Said[]): string {
  const [last = ""] = (messages.findLast(({ role }) => role === "visitor")?.text ?? "").split("\n");
  return last.length > 60 ? `${last.slice(0, 59)}…` : last;
}

function told({ text, state, tokens, price, currency, failure }: Said, { conversation }: TalkState) {
  return { conversation, text, state, tokens, price, currency, ...(failure ? { failure } : {}) };
}
