import { providerSchema, providersSchema, wireProviderSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { viewOfProvider, wireProvider } from "@/server/providers/provider-view";

/** All providers; a new one. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET() {
    const home = boot();
    return json(providersSchema, { providers: home.providers.all().map((provider) => viewOfProvider(home, provider)) });
  },
  async POST(request) {
    const home = boot();
    return json(
      providerSchema,
      viewOfProvider(home, wireProvider(home, await bodyOf(request, wireProviderSchema))),
      201,
    );
  },
});
