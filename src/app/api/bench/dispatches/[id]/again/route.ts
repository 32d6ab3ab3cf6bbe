import { sendAgainSchema, sentAgainSchema } from "@/contract/dispatches";
import { boot } from "@/server/boot";
import { sendAgain } from "@/server/dispatches/dispatch-view";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

/** Sends the request of a dispatch once more, apart from the conversation. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  POST: async (request, { id }) =>
    json(sentAgainSchema, await sendAgain(boot(), id, await bodyOf(request, sendAgainSchema), request.signal)),
});
