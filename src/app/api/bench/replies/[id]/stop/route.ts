import { stoppedSchema } from "@/contract/replies";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { refuse } from "@/server/refusal";
import { standingOfReply } from "@/server/replies/reply-view";

/** Stops a reply of any conversation; says how it ended. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async POST(_request, { id }) {
    const home = boot();
    if (home.conversations.message(id)?.role !== "app") refuse("not-found", `There is no reply ${id}.`);
    await home.hub.stop(id);
    return json(stoppedSchema, { reply: id, state: standingOfReply(home, id).state });
  },
});
