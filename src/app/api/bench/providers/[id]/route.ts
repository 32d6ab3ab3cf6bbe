import { changeProviderSchema, providerSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { changeProvider, deleteProvider, viewOfProvider } from "@/server/providers/provider-view";

/** One provider: changed, or deleted. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async PATCH(request, { id }) {
    const home = boot();
    return json(
      providerSchema,
      viewOfProvider(home, changeProvider(home, id, await bodyOf(request, changeProviderSchema))),
    );
  },
  DELETE(_request, { id }) {
    deleteProvider(boot(), id);
    return new Response(null, { status: 204 });
  },
});
