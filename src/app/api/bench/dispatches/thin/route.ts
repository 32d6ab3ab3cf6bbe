import { thinnedSchema, thinSchema } from "@/contract/dispatches";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

const day = 24 * 60 * 60 * 1000;

/** Lets go of the bytes of old dispatches. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  async POST(request) {
    const { olderThanDays } = await bodyOf(request, thinSchema);
    return json(thinnedSchema, { thinned: boot().dispatches.thin(Date.now() - olderThanDays * day) });
  },
});
