import { appSchema, appsSchema, makeAppSchema } from "@/contract/apps";
import { listApps, plainStart, viewOfApp } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { providerAt } from "@/server/providers/provider-view";
import { refuse } from "@/server/refusal";

/** All apps; a new one. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: () => json(appsSchema, { apps: listApps(boot()) }),
  async POST(request) {
    const home = boot();
    const { name, provider, model } = await bodyOf(request, makeAppSchema);
    const { id } = providerAt(home, provider);
    if (!home.providers.model(id, model)) refuse("bad-request", `The provider has no model ${model}.`);
    return json(appSchema, viewOfApp(home, home.apps.make(name, plainStart(name, id, model), Date.now())), 201);
  },
});
