import { acceptedSchema, parseReplyCall, wholeAnswerSchema } from "@/contract/replies";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { visitorCookie, visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { bodyText, jsonFrom, route, valid } from "@/server/http/route";
import { lastEventId, ndjson, replyStream, sse } from "@/server/http/streams";
import { refuse } from "@/server/refusal";
import { ask } from "@/server/replies/ask";
import { numbered } from "@/server/replies/event-store";
import { oncePerKey } from "@/server/replies/idempotent";
import { headOf, wholeAnswer } from "@/server/replies/reply-view";

/** Asks an app for a reply: as a stream, at once with a 202, or as one whole answer. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>(
  {
    async POST(request, { slug }) {
      const home = boot();
      const body = await bodyText(request);
      const app = appAt(home, slug);
      const call = valid(parseReplyCall(jsonFrom(body)));
      const known = visitorOf(home, request);
      const key = request.headers.get("idempotency-key");
      if (key && key.length > 255) refuse("bad-request", "The Idempotency-Key has more than 255 characters.");
      const keyed = key ? { app: app.id, caller: known ?? "", key, body } : undefined;

      const caller =
        known === undefined ? ({ kind: "new visitor" } as const) : ({ kind: "visitor", visitor: known } as const);
      const reply = oncePerKey(home, keyed, (note) => ask(home, app, caller, call, note));
      const visitor = home.conversations.conversationOf(reply)?.visitor;
      const cookie: Record<string, string> = known === undefined && visitor ? visitorCookie(home, visitor) : {};

      if (/\brespond-async\b/i.test(request.headers.get("prefer") ?? "")) {
        const head = headOf(home.events.ofReply(reply, 0).map(numbered)[0]);
        const accepted = { reply, conversation: head?.conversation ?? "", message: head?.message ?? "" };
        return json(acceptedSchema, accepted, 202, {
          ...cookie,
          location: `/api/apps/${slug}/replies/${reply}`,
          "preference-applied": "respond-async",
        });
      }
      const accept = request.headers.get("accept") ?? "";
      const format = accept.includes("text/event-stream")
        ? sse
        : accept.includes("application/x-ndjson")
          ? ndjson
          : undefined;
      if (format) return replyStream(home, reply, lastEventId(request) ?? 0, format, cookie);
      return json(wholeAnswerSchema, await wholeAnswer(home, reply), 200, cookie);
    },
  },
  (request, { slug }) =>
    `curl -N http://${request.headers.get("host")}/api/apps/${slug}/replies -H 'content-type: application/json' -H 'accept: text/event-stream' -d '{"message":"When does the next boat leave?"}'`,
);
