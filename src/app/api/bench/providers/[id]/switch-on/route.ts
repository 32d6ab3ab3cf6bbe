import { switchOnSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { bodyOf, route } from "@/server/http/route";
import { providerAt } from "@/server/providers/provider-view";
import { switchOn } from "@/server/providers/standing";

/** Switches a model on at its provider. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async POST(request, { id }) {
    const { model } = await bodyOf(request, switchOnSchema);
    await switchOn(boot(), providerAt(boot(), id), model);
    return new Response(null, { status: 204 });
  },
});
