import { boot } from "@/server/boot";
import { route } from "@/server/http/route";
import { refuse } from "@/server/refusal";

/** Takes the deletion of a conversation back. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  POST(_request, { id }) {
    if (!boot().conversations.restore(id)) refuse("not-found", `Conversation ${id} is deleted for good.`);
    return new Response(null, { status: 204 });
  },
});
