import { appSchema, renameAppSchema } from "@/contract/apps";
import { appAt, deleteApp, viewOfApp } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

/** One app: as it is, renamed, or deleted with all its conversations. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  GET(_request, { slug }) {
    const home = boot();
    return json(appSchema, viewOfApp(home, appAt(home, slug)));
  },
  async PATCH(request, { slug }) {
    const home = boot();
    const { name } = await bodyOf(request, renameAppSchema);
    home.apps.rename(appAt(home, slug).id, name);
    return json(appSchema, viewOfApp(home, appAt(home, slug)));
  },
  async DELETE(_request, { slug }) {
    await deleteApp(boot(), appAt(boot(), slug));
    return new Response(null, { status: 204 });
  },
});
