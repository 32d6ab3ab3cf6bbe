import { callerLineSchema } from "@/contract/conversations";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { callerLine, conversationAt, deleteConversation } from "@/server/conversations/conversation-view";
import { visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";

/** One of the caller's own conversations: a page of it, or its end. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string; id: string }>({
  GET(request, params) {
    return json(
      callerLineSchema,
      callerLine(boot(), own(request, params), new URL(request.url).searchParams.get("before")),
    );
  },
  async DELETE(request, params) {
    await deleteConversation(boot(), own(request, params).id, "for good");
    return new Response(null, { status: 204 });
  },
});

function own(request: Request, { slug, id }: { slug: string; id: string }) {
  const home = boot();
  return conversationAt(home, appAt(home, slug), { kind: "visitor", visitor: visitorOf(home, request) ?? "" }, id);
}
