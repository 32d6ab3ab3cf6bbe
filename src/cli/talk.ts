import { createInterface, type Interface } from "node:readline/promises";
import { conversations } from "@/contract/conversations";
import { type Failure, openTalk, type Said, type Talk, type TalkState } from "@/module/talk";
import type { Kept } from "./kept";
import type { Paper } from "./paper";

/** What was asked for on the command line. */
export interface TalkWishes {
  at: string;
  as?: string;
  token?: string;
  model?: string;
  /** Values for what the prompt leaves to callers. */
  set?: Record<string, string>;
  new?: boolean;
  json?: boolean;
}

const exit = { answered: 0, failed: 1, wrong: 2, stopped: 130 };
/** Kinds of failure that say that the call was wrong: made once more, it would fail once more. */
const wrongCalls = ["bad-request", "forbidden", "unknown-caller", "not-found", "wrong-method", "too-large", "too-long"];
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
  private readonly visitor: string;
  private readonly token: string | undefined;
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
    this.visitor = wishes.as ?? place.visitor;
    this.token = wishes.token ?? process.env.FINCH_TOKEN ?? place.tokens[this.app];
    kept.keep(this.address, { ...place, visitor: this.visitor });
    if (wishes.new) this.keepConversation(null);
    this.talk = this.open();
  }

  /** Asks one thing. */
  async ask(question: string): Promise<number> {
    await this.talk.open();
    const onSignal = () => this.interrupt();
    process.on("SIGINT", onSignal);
    try {
      const code = await this.answer(question);
      return this.isStopped ? exit.stopped : code;
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
    if (failure) return this.tellFailure(failure);
    if (messages.length > 0) this.keepToken();
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
    const response = await fetch(this.app + path, { headers: this.headers() }).catch(() => undefined);
    if (!response?.ok) return this.paper.warn("What is carried could not be asked for.");
    const { model, provider, turns, leftOut, tokens, window } = conversations.reach.answers[200].schema.parse(
      await response.json(),
    );
    const left = leftOut > 0 ? `, ${leftOut} left out` : "";
    // an app may keep to itself what it counts, and through which model it speaks
    const counted = tokens === undefined ? "" : `, about ${tokens} tokens of ${window}`;
    const spoken = model === undefined ? "" : `, to ${model} on ${provider}`;
    this.paper.note(`${turns} turns${left}${counted}${spoken}.`);
  }

  /** Says something, and shows the reply as it comes. @returns the exit code */
  private async answer(text: string): Promise<number> {
    this.isStopped = false;
    let shown = 0;
    const isShown = !this.wishes.json;
    this.paper.wait();
    const leave = this.talk.watch(({ messages, state }) => {
      const reply = messages.at(-1);
      if (state === "ready" || reply?.role !== "app" || !isShown) return;
      // what was taken back is said anew
      if (reply.text.length < shown) {
        this.paper.say("\n");
        shown = 0;
      }
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
    if (last?.role === "app") this.keepToken();
    return this.tellEnd(last);
  }

  private tellEnd(last: Said | undefined): number {
    if (!last || last.failure)
      return this.tellFailure(
        last?.failure ?? { kind: "internal", detail: "It was not sent.", advice: "Say it again." },
      );
    if (last.state === "cut") this.paper.note("(cut at the output limit)");
    if (last.state === "stopped") this.paper.note("(stopped)");
    if (last.state === "interrupted") this.paper.warn("(interrupted)");
    return last.state === "interrupted" || last.state === "failed" ? exit.failed : exit.answered;
  }

  private tellFailure({ kind, detail, advice }: Failure): number {
    this.paper.warn(`${detail} ${advice}`);
    return wrongCalls.includes(kind) ? exit.wrong : exit.failed;
  }

  private interrupt(): void {
    this.isStopped = true;
    void this.talk.stop();
  }

  private open(): Talk {
    return openTalk({
      app: this.app,
      badge: { of: "terminal" },
      visitor: this.visitor,
      token: this.token,
      variables: this.wishes.set,
      with: this.model ? { model: this.model } : undefined,
      keep: {
        getItem: (name) =>
          (name.startsWith("finch conversation") ? this.place().conversations[this.app] : null) ?? null,
        setItem: (name, value) => name.startsWith("finch conversation") && this.keepConversation(value),
        removeItem: (name) => name.startsWith("finch conversation") && this.keepConversation(null),
      },
    });
  }

  private headers(): Record<string, string> {
    const token: Record<string, string> = this.token ? { authorization: `Bearer ${this.token}` } : {};
    return { "finch-visitor": this.visitor, ...token };
  }

  /** Keeps the token for the next time, now that an app took it. */
  private keepToken(): void {
    const place = this.place();
    if (!this.token || place.tokens[this.app] === this.token) return;
    this.kept.keep(this.address, { ...place, tokens: { ...place.tokens, [this.app]: this.token } });
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

function told({ text, data, state, tokens, price, currency, failure }: Said, { conversation }: TalkState) {
  const typed = data === null ? {} : { data };
  return { conversation, text, ...typed, state, tokens, price, currency, ...(failure ? { failure } : {}) };
}
