import { commandFor } from "@/contract/call";
import { tokenPlace } from "@/contract/example";
import { type CallForCaller, type HeldCall, type ReplyCall, replies, type SaidToCall } from "@/contract/replies";
import type { Caller } from "../entrance/caller";
import { doorOf } from "../entrance/door";

/** What the command says next; any message would do. */
const message = "Tell me more.";

/**
 * A command that goes on from an answer, as the one who called would have to write it: in the conversation, or
 * with the history where the caller holds it.
 */
export function nextCommand(
  { app, by, visitor, seen }: Caller,
  asked: ReplyCall,
  answered: { conversation: string; text: string },
  request: Request,
): string {
  const given = asked.variables ? { variables: asked.variables } : {};
  const body =
    "messages" in asked && !asked.store
      ? {
          messages: [...saidBy(asked), { role: "app", text: answered.text }, { role: "visitor", text: message }],
          ...given,
        }
      : { message, conversation: answered.conversation, ...given };
  const call = { ...replies.ask, example: { headers: headersFor(by, seen.visitor ?? visitor), body } };
  return commandFor(call, doorOf(request.headers).origin, { slug: app.slug });
}

/** What was said before an answer: calls at its end belong to that. */
function saidBy({ messages }: HeldCall): HeldCall["messages"] {
  return messages.at(-1)?.role === "app" ? messages.slice(0, -1) : messages;
}

/** A command that answers a call which waits for its caller, or says that it may be made. */
export function answerCommand(
  { app, by, visitor, seen }: Caller,
  reply: string,
  { call, waitsFor }: CallForCaller,
  request: Request,
): string {
  const body: SaidToCall = waitsFor === "leave" ? { allow: true } : { answer: "What it came to." };
  const headers = headersFor(by, seen.visitor ?? visitor);
  const filled = { ...replies.sayToCall, example: { headers, body } };
  return commandFor(filled, doorOf(request.headers).origin, { slug: app.slug, id: reply, call });
}

function headersFor(by: Caller["by"], visitor: string | undefined): Record<string, string> {
  const named: Record<string, string> = visitor === undefined ? {} : { "finch-visitor": visitor };
  // no token is said back: where one was sent, its place is shown
  if (by === "token") return { authorization: tokenPlace, ...named };
  return by === "pass" ? { authorization: "Bearer YOUR_PASS" } : named;
}
