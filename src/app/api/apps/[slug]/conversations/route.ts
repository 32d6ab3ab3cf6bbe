import { conversationsSchema } from "@/contract/conversations";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { listConversations } from "@/server/conversations/conversation-view";
import { visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";

/** The caller's own conversations with an app, by page. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  GET(request, { slug }) {
    const home = boot();
    const asker = { kind: "visitor", visitor: visitorOf(home, request) ?? "" } as const;
    return json(
      conversationsSchema,
      listConversations(home, appAt(home, slug), asker, new URL(request.url).searchParams.get("before")),
    );
  },
});
