import { offersSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { offeredProviders } from "@/server/providers/standing";

/** Stand-ins that run on this machine and are not wired. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: async () => json(offersSchema, { offers: await offeredProviders(boot()) }),
});
