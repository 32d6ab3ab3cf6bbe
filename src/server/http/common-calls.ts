import type { Chunk, Completion } from "@/contract/common";
import { argumentsText, type ToolPiece, toolsIn } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import { longestResult } from "@/core/tools/tool";
import { callsForCaller, type TurnNeeds } from "../answers/turn";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import { replyAt } from "../entrance/access";
import { askerOf, type Caller } from "../entrance/caller";
import { isRefusal } from "../ground/refusal";
import { numbered } from "../live/event-store";

/** Calls of tools in the common shape: a reply waits for its caller while that answers them with a call of its own. */

type ToolCall = NonNullable<Completion["choices"][0]["message"]["tool_calls"]>[0];
type Fragment = NonNullable<Chunk["choices"][0]["delta"]["tool_calls"]>[0];

/** Letters of the arguments that come in one fragment. */
const letters = 48;

/** The id that a call has for whoever answers it: by it the reply is found that waits. */
function idOf(reply: string, { round }: Pick<ToolPiece, "round">, at: number): string {
  return `${reply}_${round}_${at}`;
}

/** The calls of a round that the caller is to answer: of those that were refused it is told nothing. */
export function broughtIn(pieces: readonly ToolPiece[], round: number): ToolPiece[] {
  return pieces.filter((piece) => piece.by === "caller" && piece.round === round && piece.outcome !== "refused");
}

/** Calls as this shape has them. */
export function commonCalls(reply: string, calls: readonly ToolPiece[]): ToolCall[] {
  return calls.map((call, at) => ({
    id: idOf(reply, call, at),
    type: "function",
    function: { name: call.name, arguments: argumentsText(call.arguments) },
  }));
}

/** Calls in fragments, each of one delta. */
export function fragmentsOf(calls: readonly ToolCall[]): Fragment[] {
  return calls.flatMap(({ id, type, function: { name, arguments: given } }, index): Fragment[] => [
    { index, id, type, function: { name, arguments: "" } },
    ...(given.match(new RegExp(`[\\s\\S]{1,${letters}}`, "gu")) ?? []).map((part) => ({
      index,
      function: { arguments: part },
    })),
  ]);
}

/** A reply that goes on with answers, and the event after which it does. */
export interface GoneOn {
  reply: string;
  from: number;
  round: number;
}

/**
 * Answers the calls that a reply waits for, and says where it goes on; undefined where it waits for them no more, or never
 * did: then what was said before is all there is to go by.
 */
export function goOnWith(
  home: TurnNeeds & HasConversations & HasMessages,
  caller: Caller,
  answers: readonly { id: string; text: string }[],
): GoneOn | undefined {
  const [, reply = "", written] = /^(.+)_(\d+)_\d+$/.exec(answers[0]?.id ?? "") ?? [];
  const round = Number(written);
  const standing = standingAt(home, caller, reply);
  if (!standing) return undefined;
  const calls = broughtIn(toolsIn(standing), round);
  const said = new Map(answers.map(({ id, text }) => [id, text]));
  const given = calls.map((call, at) => ({ call, text: said.get(idOf(reply, call, at)) }));
  if (given.length === 0 || given.some(({ text }) => text === undefined)) return undefined;
  const waiting = new Set(callsForCaller(home, reply).map(({ call }) => call));
  const isAnswered = (call: ToolPiece, text: string) =>
    call.outcome === "answered" && call.result?.slice(0, longestResult) === text.slice(0, longestResult);
  // the same call once more joins the reply that goes on already
  if (!given.every(({ call, text }) => waiting.has(call.call) || isAnswered(call, text as string))) return undefined;
  for (const { call, text } of given)
    if (waiting.has(call.call))
      home.toolMeans.openCalls.say(
        { reply, call: call.call },
        { kind: "answer", result: text as string, hasFailed: false },
      );
  const told = home.hub.eventsOf(reply).map(numbered);
  const from = told.find((event) => event.event === "tool" && event.data.round === round)?.id ?? 0;
  return { reply, from, round };
}

/** A reply of the caller's as it stands, if there is one of that id that is under way, or ended well. */
function standingAt(home: TurnNeeds & HasConversations & HasMessages, caller: Caller, reply: string) {
  try {
    const stored = replyAt(home, caller.app, askerOf(caller), reply);
    return isUnderWay(stored.state) ? home.hub.standing(reply) : stored.state === "complete" ? stored : undefined;
  } catch (error) {
    if (isRefusal(error)) return undefined;
    throw error;
  }
}
