import { appSchema, copyAppSchema } from "@/contract/apps";
import { appAt, viewOfApp } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

/** A new app that starts from another one's draft. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  async POST(request, { slug }) {
    const home = boot();
    const { draft } = appAt(home, slug);
    const { name } = await bodyOf(request, copyAppSchema);
    return json(appSchema, viewOfApp(home, home.apps.make(name, draft, Date.now())), 201);
  },
});
