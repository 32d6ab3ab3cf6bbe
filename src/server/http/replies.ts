import { addressFor } from "@/contract/call";
import { replies } from "@/contract/replies";
import { isUnderWay } from "@/core/reply/reply";
import { headOf, standingOfReply, wholeAnswer } from "../answers/replies";
import { appAt } from "../apps/app";
import { replyAt } from "../conversations/access";
import { refuse } from "../refusal";
import { ask } from "../replies/ask";
import { numbered } from "../replies/event-store";
import { oncePerKey } from "../replies/idempotent";
import { askerOf, visitorCookie, visitorOf } from "./caller";
import { Answered, type Handle } from "./serve";
import { lastEventId, ndjson, replyStream, sse } from "./streams";

const longestKey = 255;

/** Asks an app for a reply, and gives it as the caller wants it: as a stream, at once with a 202, or whole. */
export const askForReply: Handle<typeof replies.ask> = async (home, { slug, body, text, request }) => {
  const app = appAt(home, slug);
  const known = visitorOf(home, request);
  const key = request.headers.get("idempotency-key");
  if (key && key.length > longestKey)
    refuse("bad-request", `The Idempotency-Key has more than ${longestKey} characters.`);
  const keyed = key ? { app: app.id, caller: known ?? "", key, body: text } : undefined;
  const caller =
    known === undefined ? ({ kind: "new visitor" } as const) : ({ kind: "visitor", visitor: known } as const);
  const reply = oncePerKey(home, keyed, (note) => ask(home, app, caller, body, note));
  const visitor = home.conversations.conversationOf(reply)?.visitor;
  const cookie: Record<string, string> = known === undefined && visitor ? visitorCookie(home, visitor) : {};

  if (/\brespond-async\b/i.test(request.headers.get("prefer") ?? "")) {
    const head = headOf(home.hub.eventsOf(reply, 0, 1).map(numbered)[0]);
    const accepted = { reply, conversation: head?.conversation ?? "", message: head?.message ?? "" };
    const location = addressFor(replies.read, { slug, id: reply });
    return new Answered(202, accepted, { ...cookie, location, "preference-applied": "respond-async" });
  }
  const accept = request.headers.get("accept") ?? "";
  const format = [sse, ndjson].find(({ type }) => accept.includes(type.split(";")[0] ?? type));
  if (format) return replyStream(home, reply, lastEventId(request) ?? 0, format, cookie);
  return new Answered(200, await wholeAnswer(home, reply), cookie);
};

/** A reply as it stands, or its events after the last one that the caller had; 204 where none is left. */
export const readReply: Handle<typeof replies.read> = (home, { slug, id, request }) => {
  replyAt(home, appAt(home, slug), askerOf(home, request), id);
  const standing = standingOfReply(home, id);
  if (!request.headers.get("accept")?.includes("text/event-stream")) return standing;
  const after = lastEventId(request) ?? 0;
  if (!isUnderWay(standing.state) && after >= standing.cursor) return new Answered(204, undefined);
  return replyStream(home, id, after, sse);
};
