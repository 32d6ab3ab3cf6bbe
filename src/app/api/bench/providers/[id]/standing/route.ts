import { standingSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { providerAt } from "@/server/providers/provider-view";
import { standingOf } from "@/server/providers/standing";

/** Asks a provider now whether it answers, takes the key and lists its models. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  GET: async (_request, { id }) => json(standingSchema, await standingOf(boot(), providerAt(boot(), id))),
});
