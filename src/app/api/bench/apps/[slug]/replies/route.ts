import { acceptedSchema, parseReplyCall } from "@/contract/replies";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyText, jsonFrom, route, valid } from "@/server/http/route";
import { ask } from "@/server/replies/ask";

/** Asks for a reply at the bench: from the draft, and read through the tab's one stream. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  async POST(request, { slug }) {
    const home = boot();
    const app = appAt(home, slug);
    const call = valid(parseReplyCall(jsonFrom(await bodyText(request))));
    const { reply, conversation, message } = ask(home, app, { kind: "bench" }, call);
    return json(acceptedSchema, { reply, conversation, message }, 202, { "preference-applied": "respond-async" });
  },
});
