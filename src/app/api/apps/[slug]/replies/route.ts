import { parseReplyCall } from "@/contract/replies";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { visitorCookie, visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { bodyText, jsonFrom, route, valid } from "@/server/http/route";
import { ndjson, replyStream, sse } from "@/server/http/streams";
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
      const app = appAt(home, slug);
      const body = await bodyText(request);
      const call = valid(parseReplyCall(jsonFrom(body)));
      const known = visitorOf(home, request);
      const key = request.headers.get("idempotency-key");
      if (key && key.length > 255) refuse("bad-request", "The Idempotency-Key has more than 255 characters.");
      const keyed = key ? { app: app.id, caller: known ?? "", key, body } : undefined;

      const reply = oncePerKey(home, keyed, () => {
        const visitor = known ?? home.visitors.add(Date.now());
        return { reply: ask(home, app, { kind: "visitor", visitor }, call).reply, visitor };
      });
      const visitor = home.conversations.conversationOf(reply)?.visitor;
      const cookie: Record<string, string> = known === undefined && visitor ? visitorCookie(home, visitor) : {};

      if (/\brespond-async\b/i.test(request.headers.get("prefer") ?? "")) {
        const head = headOf(home.events.ofReply(reply, 0).map(numbered)[0]);
        const accepted = { reply, conversation: head?.conversation ?? "", message: head?.message ?? "" };
        return json(accepted, 202, {
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
      if (format) return replyStream(home.hub, reply, lastEventId(request), format, cookie);
      return json(await wholeAnswer(home, reply), 200, cookie);
    },
  },
  (request, { slug }) =>
    `curl -N http://${request.headers.get("host")}/api/apps/${slug}/replies -H 'content-type: application/json' -H 'accept: text/event-stream' -d '{"message":"When does the next boat leave?"}'`,
);

function lastEventId(request: Request): number {
  return Number(request.headers.get("last-event-id")) || 0;
}
