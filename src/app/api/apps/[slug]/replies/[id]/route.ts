import { replyStandingSchema } from "@/contract/replies";
import { isUnderWay } from "@/core/reply/reply";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { lastEventId, replyStream, sse } from "@/server/http/streams";
import { replyAt, standingOfReply } from "@/server/replies/reply-view";

/** A reply as it stands, or its events after `Last-Event-ID`; 204 once nothing is left of them. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string; id: string }>({
  GET(request, { slug, id }) {
    const home = boot();
    replyAt(home, appAt(home, slug), { kind: "visitor", visitor: visitorOf(home, request) ?? "" }, id);
    const standing = standingOfReply(home, id);
    if (!request.headers.get("accept")?.includes("text/event-stream")) return json(replyStandingSchema, standing);
    const after = lastEventId(request) ?? 0;
    if (!isUnderWay(standing.state) && after >= standing.cursor) return new Response(null, { status: 204 });
    return replyStream(home, id, after, sse);
  },
});
