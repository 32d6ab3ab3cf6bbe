import { benchLineSchema } from "@/contract/conversations";
import { boot } from "@/server/boot";
import { benchLine, deleteConversation } from "@/server/conversations/conversation-view";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { refuse } from "@/server/refusal";

/** A conversation at the bench: a page of its line, or its deletion, which can be taken back. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  GET(request, { id }) {
    const home = boot();
    const conversation = home.conversations.byId(id) ?? refuse("not-found", `There is no conversation ${id}.`);
    const app = home.apps.byId(conversation.app) ?? refuse("not-found", `There is no conversation ${id}.`);
    return json(benchLineSchema, benchLine(home, app, conversation, new URL(request.url).searchParams.get("before")));
  },
  async DELETE(_request, { id }) {
    const home = boot();
    if (!home.conversations.byId(id)) refuse("not-found", `There is no conversation ${id}.`);
    await deleteConversation(home, id, "restorable");
    return new Response(null, { status: 204 });
  },
});
