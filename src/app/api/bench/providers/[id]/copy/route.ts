import { copyProviderSchema, providerSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { copyProvider, viewOfProvider } from "@/server/providers/provider-view";

/** Copies a provider under another name. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async POST(request, { id }) {
    const { name } = await bodyOf(request, copyProviderSchema);
    return json(providerSchema, viewOfProvider(boot(), copyProvider(boot(), id, name)), 201);
  },
});
