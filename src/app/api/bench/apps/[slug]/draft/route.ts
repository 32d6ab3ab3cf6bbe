import { appSchema, draftSchema } from "@/contract/apps";
import { appAt, viewOfApp } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

/** Replaces an app's draft. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  async PUT(request, { slug }) {
    const home = boot();
    const { content } = await bodyOf(request, draftSchema);
    home.apps.setDraft(appAt(home, slug).id, content);
    return json(appSchema, viewOfApp(home, appAt(home, slug)));
  },
});
