import type { Expected } from "@/core/checks/expectations/expectations";
import type { JudgedReply, ToJudge } from "@/core/checks/judging";
import type { Check, CheckStep, FiledTurn, FiledTurns } from "@/core/checks/script";
import type { Figures, SeenCall } from "@/core/checks/seen";
import { isSilencing, outcomeOf, type TrialReply, type TrialResult } from "@/core/checks/trial";
import { textOf } from "@/core/conversation/pieces";
import { turnsOf } from "@/core/conversation/turns";
import { momentOf } from "@/core/revision/clock";
import type { HasReader } from "../archive/threads";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { refuse } from "../ground/refusal";
import { type Answered, type AnswerNeeds, answer, type TrialOf } from "../trials/answer";
import { sumUpTrial } from "../trials/summing";
import { TrialLine } from "../trials/trial-line";
import type { HasJudges } from "./judge-store";
import { judgementsOf } from "./judges";

/** What of the process is used here. */
export type TrialNeeds = AnswerNeeds & HasJudges & HasConversations & HasMessages & HasReader;

/** What a trial came to, how many milliseconds it took, and what it cost in millionths of a currency. */
export interface TrialEnd {
  result: TrialResult;
  ms: number;
  price: number;
  currency: string | null;
}

type Ask = Extract<CheckStep, { kind: "ask" }>;

/**
 * Says what a check says to a candidate, one message after another, and holds each reply against what is expected of
 * it. Once a reply can't be had, all that comes after it is silent.
 * @throws what `signal` is aborted with
 */
export async function runTrial(
  home: TrialNeeds,
  trial: TrialOf & { check: Check; filed: readonly FiledTurns[] },
  signal: AbortSignal,
): Promise<TrialEnd> {
  const { check, candidate } = trial;
  const started = performance.now();
  const now = check.now === undefined ? Date.now() : momentOf(check.now, candidate.content.timeZone);
  const line = new TrialLine();
  const replies: TrialReply[] = [];
  const calls: SeenCall[] = [];
  const spent = { price: 0, currency: null as string | null };
  let turnsBefore = 0;
  let last: Answered | undefined;
  let isSilent = false;
  for (const step of check.steps) {
    if (step.kind === "pin") line.pin(step.turn);
    else if (step.kind !== "ask") {
      const { provider, model } = candidate.content;
      for (const turn of await turnsBeforeOf(home, trial, step))
        line.add(turn, { provider, model, revision: candidate.number }, now);
      if (replies.length === 0) turnsBefore = line.turns;
    } else if (isSilent) replies.push(unasked(step, line.turns + 1));
    else {
      spent.price += await sumUpTrial(home, trial, line, signal);
      line.ask(step.message, now);
      last = await answer(home, trial, { line, now, given: check.given }, signal);
      signal.throwIfAborted();
      const { figures, making, prompt, sent } = last;
      spent.price += Math.round((figures.price ?? 0) * 1_000_000);
      spent.currency = figures.currency ?? spent.currency;
      // rounds of one reply are others than those of the next
      const before = calls.at(-1)?.round ?? 0;
      calls.push(...sent.calls.map((call) => ({ ...call, round: before + call.round })));
      isSilent = isWithoutAnswer(step, figures);
      const text = textOf(last);
      const { message, expected } = step;
      const seen = { ...figures, ...sent, text, message, prompt };
      const judges = isSilent
        ? { judgements: {}, price: 0 }
        : await judgementsOf(home, trial, { expected, message, text }, signal);
      spent.price += judges.price;
      const toJudge = { expected, seen: { ...seen, judgements: judges.judgements }, earlier: line.earlier() };
      const judged = await judgedOf(home, isSilent, toJudge);
      replies.push({ line: step.line, turn: line.turns, message, text, figures, making, judged });
    }
  }
  const together = wholeOf(replies, last, calls);
  const judges =
    isSilent || !last
      ? { judgements: {}, price: 0 }
      : await judgementsOf(home, trial, { ...together, expected: check.whole }, signal);
  spent.price += judges.price;
  const whole = await judgedOf(home, isSilent || !last, {
    expected: check.whole,
    seen: { ...together, judgements: judges.judgements },
    earlier: [],
  });
  const outcome = outcomeOf([...replies.flatMap(({ judged }) => judged), ...whole], isSilent);
  return { result: { outcome, turnsBefore, replies, whole }, ms: Math.round(performance.now() - started), ...spent };
}

/** Whether a reply says nothing about what the app would have answered: its problem is none that is expected. */
function isWithoutAnswer({ expected }: Ask, { problem, outcome }: Figures): boolean {
  const isExpected = expected.some(({ expectation }) => expectation.kind === "ends" && expectation.outcome === outcome);
  return problem !== undefined && isSilencing(problem.kind) && !isExpected;
}

/** Replies held against what is expected: in the reading thread, where nobody waits for a pattern that runs away. */
async function judgedOf({ reader }: HasReader, isSilent: boolean, of: ToJudge): Promise<TrialReply["judged"]> {
  const judged: JudgedReply[] = isSilent
    ? of.expected.map(silent)
    : of.expected.length === 0
      ? []
      : await reader.call("judged", of);
  return judged as TrialReply["judged"];
}

function silent({ line }: Expected): JudgedReply {
  return { line, outcome: "silent", saw: null };
}

/** A question that was not asked any more. */
function unasked({ line, message, expected }: Ask, turn: number): TrialReply {
  const judged = expected.map(silent) as TrialReply["judged"];
  return { line, turn, message, text: "", figures: { outcome: "not-asked", ms: 0 }, making: null, judged };
}

/** All replies of a trial together: their words one after the other, their figures summed up. */
function wholeOf(
  replies: readonly TrialReply[],
  last: Answered | undefined,
  calls: readonly SeenCall[],
): ToJudge["seen"] {
  const sum = (of: (figures: Figures) => number | undefined) =>
    replies.reduce((all: number | undefined, { figures }) => {
      const each = of(figures);
      return each === undefined ? all : (all ?? 0) + each;
    }, undefined);
  const firsts = replies.flatMap(({ figures }) => figures.firstTextMs ?? []);
  return {
    outcome: last?.figures.outcome ?? "not-asked",
    firstTextMs: firsts.length > 0 ? Math.max(...firsts) : undefined,
    ms: sum(({ ms }) => ms) ?? 0,
    input: sum(({ input }) => input),
    output: sum(({ output }) => output),
    price: sum(({ price }) => price),
    currency: last?.figures.currency,
    text: replies.map(({ text }) => text).join("\n\n"),
    message: replies.map(({ message }) => message).join("\n"),
    turns: last?.sent.turns ?? [],
    hasPin: last?.sent.hasPin ?? false,
    hasSummary: last?.sent.hasSummary ?? false,
    passages: last?.sent.passages ?? [],
    calls,
    unknown: last?.sent.unknown ?? null,
    prompt: last?.prompt ?? "",
  };
}

/** Turns that are given: one, or those of a conversation that is filed or stored. @throws {Refusal} where there are fewer */
async function turnsBeforeOf(
  home: HasConversations & HasMessages,
  { app, filed }: { app: { id: string }; filed: readonly FiledTurns[] },
  step: Extract<CheckStep, { kind: "turn" | "after" }>,
): Promise<readonly FiledTurn[]> {
  if (step.kind === "turn") return [step.turn];
  const { from, turns } = step;
  const all =
    from.kind === "filed" ? filed.find(({ name }) => name === from.name)?.turns : storedTurns(home, app.id, from.id);
  const name = from.kind === "filed" ? from.name : `conversation ${from.id}`;
  if (!all) refuse("bad-request", `Line ${step.line}: there are no turns ${name}.`);
  if (turns !== null && all.length < turns)
    refuse("bad-request", `Line ${step.line}: ${name} has ${all.length} turns, and ${turns} are wanted.`);
  return turns === null ? all : all.slice(0, turns);
}

/** The answered turns of a stored conversation's shown line. */
export function storedTurns(
  { conversations, messages }: HasConversations & HasMessages,
  app: string,
  id: string,
): FiledTurn[] | undefined {
  const conversation = conversations.byId(id);
  if (conversation?.app !== app || conversation.tip === null) return undefined;
  return turnsOf(messages.line(conversation.tip)).flatMap(({ visitor, reply }) => {
    const said = { visitor: textOf(visitor).trim(), app: reply ? textOf(reply).trim() : "" };
    return said.visitor === "" || said.app === "" ? [] : [said];
  });
}
