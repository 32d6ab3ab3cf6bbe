import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { providerAt, standingOf } from "@/server/providers/provider-view";

/** Asks a provider now whether it answers, takes the key and lists its models. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  GET: async (_request, { id }) => json(await standingOf(providerAt(boot(), id))),
});
