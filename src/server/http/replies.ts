import { addressFor } from "@/contract/call";
import type { ReplyCall } from "@/contract/replies";
import { replies } from "@/contract/replies";
import { statusOf } from "@/core/problem/problem";
import { isUnderWay } from "@/core/reply/reply";
import type { Told } from "@/core/reply/told";
import { headOf, standingForCaller, type WholeAnswerNeeds, wholeAnswer } from "../answers/replies";
import { callersTurn } from "../answers/turn";
import { replyAt } from "../entrance/access";
import type { HasCalls } from "../entrance/call-store";
import { askerOf, type Caller } from "../entrance/caller";
import { visitorCookie } from "../entrance/cookie";
import { doorOf } from "../entrance/door";
import type { HasLimits } from "../entrance/limits";
import { passFor, passHeader } from "../entrance/pass";
import { takeFromLimits } from "../entrance/rate";
import type { HasRevocations } from "../entrance/revocations";
import { ticketFor } from "../entrance/ticket";
import { isRefusal, refuse } from "../ground/refusal";
import { type HasEvents, numbered } from "../live/event-store";
import { type Asked, type AskedBy, type AskNeeds, ask } from "../replies/ask";
import type { HasIdempotency } from "../replies/idempotency-store";
import { oncePerKey } from "../replies/idempotent";
import type { HasSigner } from "../security/secret";
import { preferredOf } from "./negotiate";
import { answerCommand, nextCommand } from "./next-command";
import { Answered, type Handle } from "./serve";
import { type Format, lastEventId, mediaTypeOf, ndjson, replyStream, sse } from "./streams";

/** What of the process is used here. */
export type AskForNeeds = AskNeeds & HasEvents & HasIdempotency & HasLimits & HasRevocations & HasSigner;

const longestKey = 255;
const whole = "application/json";
const streamed = [sse, ndjson];
/** The header that names a new visitor to who calls by no name. */
export const visitorHeader = "finch-visitor";

/** A reply that was asked for, and what its caller is to be told along with it. */
export interface AskedFor {
  reply: string;
  /** Further takes. */
  further: string[];
  conversation: string;
  caller: Caller;
  headers: Record<string, string>;
}

/**
 * Asks for a reply on behalf of a caller, within its limits, and notes the call.
 * @param also is called in the same transaction
 * @throws {Refusal}
 */
export function askFor(
  home: AskForNeeds,
  caller: Caller & Pick<AskedBy, "canAllow" | "canMend">,
  call: ReplyCall,
  request: Request,
  text: string,
  also: (asked: Asked) => void = () => {},
): AskedFor {
  const { app, visitor, fresh, seen } = caller;
  if (caller.publicToken !== undefined)
    refuse("unknown-caller", "A public token only opens visitors, and asks for nothing itself.", {
      advice: `Send it with POST /api/apps/${app.slug}/visitors, and call with the pass that comes back.`,
    });
  const now = Date.now();
  takeFromLimits(home, caller, now, ("count" in call && call.count) || 1);
  const key = request.headers.get("idempotency-key");
  if (key && key.length > longestKey)
    refuse("bad-request", `The Idempotency-Key has more than ${longestKey} characters.`);
  const keyed = key ? { app: app.id, caller: caller.key, key, body: text } : undefined;
  const by: AskedBy = {
    asker: visitor === undefined ? { kind: "new visitor", fresh } : { kind: "visitor", visitor },
    origin: seen.origin,
    client: seen.client,
    labels: caller.labels,
    canAllow: caller.canAllow,
    canMend: caller.canMend,
  };
  let isNoted = false;
  const note = (reply: string, of: string | null) => {
    isNoted = true;
    home.calls.add({ ...seen, visitor: seen.visitor ?? of }, { status: 200, problem: null, reply }, now);
    home.log.info({ call: seen.id, app: app.slug, reply }, "call");
  };
  const { reply, further } = oncePerKey(home, keyed, (noteKey) =>
    ask(home, app, by, call, (asked) => {
      noteKey(asked);
      also(asked);
      note(asked.head.reply, asked.asker.kind === "visitor" ? asked.asker.visitor : null);
    }),
  );
  const conversation = home.conversations.conversationOf(reply);
  // the same call once more is a call of its own
  if (!isNoted) note(reply, conversation?.visitor ?? null);
  const own = conversation?.visitor ?? undefined;
  const isNew = visitor === undefined && own !== undefined;
  const headers = isNew ? newVisitorHeaders(home, caller, own) : {};
  return {
    reply,
    further,
    conversation: conversation?.id ?? "",
    caller: { ...caller, visitor: own ?? visitor },
    headers,
  };
}

/** What a caller is told of the visitor that a call of it made. */
export function newVisitorHeaders(home: HasSigner, caller: Caller, visitor: string): Record<string, string> {
  return {
    ...(caller.by === "browser" ? keptBy(home, caller, visitor) : {}),
    ...(caller.seen.visitor === null ? { [visitorHeader]: visitor } : {}),
  };
}

/** What has a browser know which visitor it is: a cookie, or a pass where a browser keeps none, on other sites' pages. */
function keptBy(home: HasSigner, { app, badge, seen }: Caller, visitor: string): Record<string, string> {
  const isElsewhere = badge === "frame" || seen.webOrigin !== null;
  return isElsewhere ? { [passHeader]: passFor(home, visitor) } : visitorCookie(home, app, visitor);
}

/** Asks an app for a reply, and gives it as the caller wants it: as a stream, at once with a 202, or whole. */
export const askForReply: Handle<typeof replies.ask, AskForNeeds> = async (home, { caller, body, text, request }) => {
  const asked = askFor(home, caller, body, request, text);
  const { reply, further, headers } = asked;
  const { slug } = caller.app;
  const nextAfter = (text: string) => nextCommand(asked.caller, body, { ...asked, text }, request);
  const eventsOf = (id: string) => {
    const by = caller.badge === "page" || caller.badge === "frame" ? "page" : "endpoints";
    const ticket = ticketFor(home, id, { token: caller.token, by }, Date.now());
    return doorOf(request.headers).origin + addressFor(replies.read, { slug, id, ticket });
  };
  if (further.length > 0) {
    const { conversation = "", message = "" } = headOf(home.hub.eventsOf(reply, 0, 1).map(numbered)[0]) ?? {};
    const takes = [reply, ...further].map((id) => ({ reply: id, events: eventsOf(id) }));
    return new Answered(202, { form: "takes" as const, conversation, message, takes, next: nextAfter("…") }, headers);
  }
  if (/\brespond-async\b/i.test(request.headers.get("prefer") ?? "")) {
    const head = headOf(home.hub.eventsOf(reply, 0, 1).map(numbered)[0]);
    const location = addressFor(replies.read, { slug, id: reply });
    const { conversation = "", message = "" } = head ?? {};
    const accepted = { form: "later" as const, reply, conversation, message, events: eventsOf(reply) };
    return new Answered(
      202,
      { ...accepted, next: nextAfter("…") },
      { ...headers, location, "preference-applied": "respond-async" },
    );
  }
  const format = formatFor(request);
  const { told, token } = caller;
  if (format) return replyStream(home, reply, lastEventId(request) ?? 0, format, { headers, told, token });
  const calls = await callersTurn(home, reply, request.signal);
  const [first] = calls;
  if (first) {
    const head = headOf(home.hub.eventsOf(reply, 0, 1).map(numbered)[0]);
    const { text } = standingForCaller(home, reply, told);
    const { conversation = "", message = "" } = head ?? {};
    const next = answerCommand(asked.caller, reply, first, request);
    const waiting = {
      form: "calls" as const,
      reply,
      conversation,
      message,
      text,
      calls,
      events: eventsOf(reply),
      next,
    };
    return new Answered(202, waiting, { ...headers, location: addressFor(replies.read, { slug, id: reply }) });
  }
  const answer = await wholeOrNoted(home, reply, told);
  return new Answered(200, { ...answer, next: nextAfter(answer.text) }, headers);
};

/** The whole answer; where the reply failed, the call is noted with the status that it then gets. */
export async function wholeOrNoted(home: WholeAnswerNeeds & HasCalls, reply: string, told: Told) {
  try {
    return await wholeAnswer(home, reply, told);
  } catch (error) {
    if (isRefusal(error)) home.calls.fail(reply, statusOf(error.problem.kind), error.problem);
    throw error;
  }
}

/** Seconds for which a caller may have a reply waited for (`Prefer: wait`, RFC 7240, 4.3). */
const longestWait = 120;

/**
 * A reply as it stands, or its events after the last one that the caller had; 204 where none is left. With `Prefer: wait`
 * it is waited for, so many seconds at most, until it has ended or waits for the caller.
 */
export const readReply: Handle<typeof replies.read, AskForNeeds> = async (home, { id, caller, request }) => {
  replyAt(home, caller.app, askerOf(caller), id);
  const { told, token } = caller;
  const format = formatFor(request);
  const wait = Number(/\bwait=(\d{1,6})\b/i.exec(request.headers.get("prefer") ?? "")?.[1] ?? 0);
  if (!format && wait > 0) {
    const seconds = Math.min(wait, longestWait);
    await callersTurn(home, id, AbortSignal.any([request.signal, AbortSignal.timeout(seconds * 1000)]));
    return new Answered(200, standingForCaller(home, id, told), { "preference-applied": `wait=${seconds}` });
  }
  const standing = standingForCaller(home, id, told);
  if (!format) return standing;
  const after = lastEventId(request) ?? 0;
  if (!isUnderWay(standing.state) && after >= standing.cursor) return new Answered(204, undefined);
  return replyStream(home, id, after, format, { told, token });
};

/** How a caller wants the events of a reply; undefined where it wants no events. */
function formatFor(request: Request): Format | undefined {
  const chosen = preferredOf(request, [whole, ...streamed.map(mediaTypeOf)]);
  return streamed.find((format) => mediaTypeOf(format) === chosen);
}
