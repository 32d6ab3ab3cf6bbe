import { endOf, heardBy, otherOf, type Side, type Uttered } from "@/core/comparing/duet/duet";
import type { AppMessage } from "@/core/conversation/message";
import { textOf } from "@/core/conversation/pieces";
import { problem } from "@/core/problem/problem";
import { isUnderWay } from "@/core/reply/reply";
import type { HasMessages } from "../conversations/message-store";
import { isRefusal } from "../ground/refusal";
import { type AskedBy, ask } from "../replies/ask";
import type { DuetTurn, HasDuets, StoredDuet } from "./duet-store";
import type { LaneNeeds } from "./lane-runner";

/** What of the process is used here. */
export type DuetNeeds = Omit<LaneNeeds, "comparisons"> & HasDuets;

/** How often an utterance may be begun that a stop of the process cuts off. */
const mostTries = 2;

/** What a duet is to do next. */
type Step =
  | { kind: "say"; number: number; side: Side; text: string }
  | { kind: "again"; number: number; side: Side; message: string }
  | { kind: "wait"; reply: string };

/**
 * Has the two of a duet speak in turn. What was said and how it ended is read from what is stored, so that a duet goes
 * on where it was after a stop of the process: what was said is never made again, and what was cut off once more.
 */
export class DuetRunner {
  private readonly running = new Set<string>();

  constructor(private readonly home: () => DuetNeeds) {}

  /** Has a duet go on until it ends. */
  start(duet: string): void {
    if (this.running.has(duet)) return;
    this.running.add(duet);
    void this.run(duet);
  }

  /** Goes on with what a stop of the process left. */
  resume(): void {
    for (const duet of this.home().duets.underWay()) this.start(duet);
  }

  private async run(id: string): Promise<void> {
    const home = this.home();
    try {
      for (let step = nextStep(home, id); step && !home.isClosing(); step = nextStep(home, id)) {
        const reply = step.kind === "wait" ? step.reply : begin(home, id, step);
        if (reply !== undefined) await home.hub.ended(reply);
        home.changes.tell(id);
      }
    } catch (error) {
      home.log.error({ error, duet: id }, "a duet could not go on");
    } finally {
      this.running.delete(id);
      home.changes.tell(id);
    }
  }
}

/** The reply that an utterance is: the newest take. */
export function utteranceOf({ messages }: HasMessages, { message }: DuetTurn): AppMessage | undefined {
  return message === null ? undefined : messages.takesOf(message).at(-1);
}

/** What an utterance said, and what it took. */
export function uttered(reply: AppMessage | undefined): Uttered {
  const { usage } = reply?.facts ?? {};
  return {
    text: reply ? textOf(reply) : "",
    price: usage?.price ?? 0,
    tokens: (usage?.input ?? 0) + (usage?.output ?? 0),
  };
}

/** What is next in a duet; nothing once it has ended, which is noted where it does so now. */
function nextStep(home: DuetNeeds, id: string): Step | undefined {
  const duet = home.duets.byId(id);
  if (!duet || duet.ended) return undefined;
  const turns = home.duets.turns(id);
  const last = turns.at(-1);
  if (!last) return { kind: "say", number: 1, side: duet.opener, text: duet.cue };
  const reply = utteranceOf(home, last);
  if (reply && isUnderWay(reply.state)) return { kind: "wait", reply: reply.id };
  const { number, side, message } = last;
  const tries = message === null ? 0 : home.messages.takesOf(message).length;
  const isCutOff = reply?.state === "interrupted" && tries < mostTries;
  if (message !== null && (last.goesAgain || isCutOff)) return { kind: "again", number, side, message };
  const said = turns.map((turn) => uttered(utteranceOf(home, turn)));
  const failure = failureOf(reply);
  const end = failure ? { kind: "failed" as const, problem: failure } : endOf(said, duet, duet.judgedFrom);
  if (end) {
    home.duets.setEnded(id, end, Date.now());
    return undefined;
  }
  const next = otherOf(side);
  const waiting = home.duets.words(id).filter((word) => word.side === next && word.number === null);
  const text = heardBy(
    said.at(-1)?.text ?? "",
    waiting.map((word) => word.text),
  );
  return { kind: "say", number: number + 1, side: next, text };
}

/** Why nothing can be said to an utterance; undefined where something can. */
function failureOf(reply: AppMessage | undefined) {
  if (!reply) return problem("not-found", "What was said last is deleted.");
  if (reply.facts.problem) return reply.facts.problem;
  if (textOf(reply).trim() !== "") return undefined;
  return reply.state === "interrupted"
    ? problem("interrupted", "The server was stopped twice while this was being said.")
    : problem("empty", "Nothing was said that the other one could answer.");
}

/** Begins an utterance, and gives the id of its reply; where that can't be done, the duet ends with the reason. */
function begin(home: DuetNeeds, id: string, step: Exclude<Step, { kind: "wait" }>): string | undefined {
  const { duets, apps, contents } = home;
  const duet = duets.byId(id) as StoredDuet;
  const { number, side } = step;
  const { revision, contentHash: hash, conversation } = duets.sides(id)[side];
  try {
    const app = apps.byId(duet.app);
    if (!app) return undefined;
    const candidate = { number: revision, hash, content: contents.read(hash) };
    const by: AskedBy = { asker: { kind: "bench" }, origin: "duet", client: null, candidate };
    const into = conversation ?? opened(home, duet, side);
    const call = step.kind === "again" ? { again: step.message } : { message: step.text, conversation: into };
    return ask(home, app, by, call, ({ head }) => {
      duets.addTurn(id, { number, side, message: head.message });
      duets.setAgain(id, number, false);
    }).reply;
  } catch (error) {
    if (!isRefusal(error)) throw error;
    duets.setEnded(id, { kind: "failed", problem: error.problem }, Date.now());
    return undefined;
  }
}

/** Gives a side the conversation in which the other one is the visitor. */
export function opened(
  { conversations, duets }: Pick<DuetNeeds, "conversations" | "duets">,
  duet: StoredDuet,
  side: Side,
) {
  const { id } = conversations.create({
    app: duet.app,
    visitor: null,
    origin: "duet",
    isOwned: true,
    opening: duet.opening || duet.cue,
    now: Date.now(),
  });
  duets.setConversation(duet.id, side, id);
  return id;
}

/** A parameter that has `duetRunner`. */
export interface HasDuetRunner {
  duetRunner: DuetRunner;
}
