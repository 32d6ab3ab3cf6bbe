import { dispatchesSchema } from "@/contract/dispatches";
import { boot } from "@/server/boot";
import { dispatchesOf } from "@/server/dispatches/dispatch-view";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";

/** The dispatches of a reply, one for each attempt. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  GET: (_request, { id }) =>
    json(dispatchesSchema, { dispatches: dispatchesOf(boot(), id), kept: boot().dispatches.sizes() }),
});
