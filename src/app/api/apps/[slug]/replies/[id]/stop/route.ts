import { stoppedSchema } from "@/contract/replies";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { visitorOf } from "@/server/http/caller";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { replyAt, standingOfReply } from "@/server/replies/reply-view";

/** Stops a reply; says how it ended. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string; id: string }>({
  async POST(request, { slug, id }) {
    const home = boot();
    replyAt(home, appAt(home, slug), { kind: "visitor", visitor: visitorOf(home, request) ?? "" }, id);
    await home.hub.stop(id);
    return json(stoppedSchema, { reply: id, state: standingOfReply(home, id).state });
  },
});
