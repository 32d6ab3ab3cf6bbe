import { appSchema, putLiveSchema } from "@/contract/apps";
import { appAt, viewOfApp } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";

/** Puts content live: visitors and callers get it from the next message on. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  async PUT(request, { slug }) {
    const home = boot();
    const { content } = await bodyOf(request, putLiveSchema);
    const { id } = appAt(home, slug);
    home.apps.setLive(id, home.apps.fix(id, content, Date.now()));
    return json(appSchema, viewOfApp(home, appAt(home, slug)));
  },
});
