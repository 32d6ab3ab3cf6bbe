import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { offeredProviders } from "@/server/providers/provider-view";

/** Stand-ins that run here and are not wired yet. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: async () => json({ offers: await offeredProviders(boot()) }),
});
