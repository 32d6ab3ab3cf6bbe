import { commandFor } from "@/contract/call";
import { tokenPlace } from "@/contract/example";
import { type ReplyCall, replies } from "@/contract/replies";
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
          messages: [...asked.messages, { role: "app", text: answered.text }, { role: "visitor", text: message }],
          ...given,
        }
      : { message, conversation: answered.conversation, ...given };
  const call = { ...replies.ask, example: { headers: headersFor(by, seen.visitor ?? visitor), body } };
  return commandFor(call, doorOf(request.headers).origin, { slug: app.slug });
}

function headersFor(by: Caller["by"], visitor: string | undefined): Record<string, string> {
  const named: Record<string, string> = visitor === undefined ? {} : { "finch-visitor": visitor };
  // no token is said back: where one was sent, its place is shown
  if (by === "token") return { authorization: tokenPlace, ...named };
  return by === "pass" ? { authorization: "Bearer YOUR_PASS" } : named;
}
