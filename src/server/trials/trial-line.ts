import type { FiledTurn } from "@/core/checks/script";
import type { Pinned } from "@/core/context/assemble";
import type { AppMessage, Message, ReplyFacts, VisitorMessage } from "@/core/conversation/message";
import { holdsSomething, type Piece, piecesOf, textOf } from "@/core/conversation/pieces";
import { noSum, withTurn } from "@/core/conversation/sum";
import type { ReplyState } from "@/core/reply/reply";
import { countsOfPieces } from "@/core/tokens/counts";
import type { Hanging } from "../conversations/line";
import type { StoredSummary } from "../conversations/summary-store";
import { newId } from "../ground/id";
import type { Line } from "../making/order";
import type { ReadableLine } from "../summaries/next-step";

/** The conversation of a trial: it is held in memory, and stands in no list. */
export class TrialLine implements Line, ReadableLine {
  private readonly messages: Message[] = [];
  private readonly pins: Pinned[] = [];
  /** The newest first. */
  readonly summaries: StoredSummary[] = [];
  readonly clears = [];

  /** Turns that there are. */
  get turns(): number {
    return this.messages.at(-1)?.turn ?? 0;
  }

  get newest(): Message {
    const newest = this.messages.at(-1);
    if (!newest) throw new Error("Nothing was said in this trial yet.");
    return newest;
  }

  get pinned(): readonly Pinned[] {
    return this.pins;
  }

  get hanging(): Hanging {
    return { clears: [...this.clears], pinned: [...this.pins], summaries: this.summaries };
  }

  /** Adds what a visitor says. */
  ask(text: string, now: number): VisitorMessage {
    const parent = this.messages.at(-1);
    const pieces = piecesOf(text);
    const message: VisitorMessage = {
      id: newId("msg"),
      parent: parent?.id ?? null,
      turn: this.turns + 1,
      role: "visitor",
      pieces,
      counts: countsOfPieces(pieces),
      soFar: parent?.soFar ?? noSum,
      at: now,
    };
    this.messages.push(message);
    return message;
  }

  /** Takes the newest message back, with what was answered to it. */
  takeBack(): void {
    const { turn } = this.newest;
    while (this.messages.at(-1)?.turn === turn) this.messages.pop();
  }

  /** Adds what the app answered to what was said last. */
  answer(of: { pieces: Piece[]; state: ReplyState; reported: number | null; facts: ReplyFacts; now: number }): void {
    const asked = this.newest;
    const { pieces, state, reported, facts, now } = of;
    const counts = countsOfPieces(pieces);
    const reply: AppMessage = {
      id: newId("msg"),
      parent: asked.id,
      turn: asked.turn,
      role: "app",
      pieces,
      counts,
      soFar: holdsSomething({ pieces }) ? withTurn(asked.soFar, [asked.counts, counts]) : asked.soFar,
      at: now,
      state,
      reported,
      continues: null,
      facts,
    };
    this.messages.push(reply);
  }

  /** Adds a turn that is given. */
  add({ visitor, app }: FiledTurn, facts: ReplyFacts, now: number): void {
    this.ask(visitor, now);
    this.answer({ pieces: piecesOf(app), state: "complete", reported: null, facts, now });
  }

  /** Pins a turn; one that is not answered is none. */
  pin(turn: number): void {
    const [visitor, reply] = this.messages.filter((message) => message.turn === turn);
    if (visitor && reply) this.pins.push({ visitor, reply });
  }

  /** What was said in each turn before the newest message. */
  earlier(): { turn: number; said: string }[] {
    const said = new Map<number, string>();
    for (const message of this.messages)
      if (message.turn < this.turns)
        said.set(message.turn, [said.get(message.turn), textOf(message)].filter(Boolean).join("\n"));
    return [...said].map(([turn, text]) => ({ turn, said: text }));
  }

  readonly lastTurns = (turns: number): readonly Message[] => {
    const from = this.turns - turns + 1;
    return this.messages.filter(({ turn }) => turn >= from);
  };

  readonly stretch = (from: number, to: number): readonly Message[] =>
    this.messages.filter(({ turn }) => turn >= from && turn <= to);

  readonly above = ({ turn }: Message) =>
    this.messages
      .filter((message) => message.turn < turn)
      .map((message) => ({
        role: message.role,
        pieces: message.pieces,
        carry: message.role === "app" ? { provider: message.facts.provider, rounds: message.facts.carry } : undefined,
      }));
}
