import { preflightSchema } from "@/contract/providers";
import { appAt } from "@/server/apps/app-view";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { preflight } from "@/server/providers/preflight";

/** What is missing before the draft of an app can answer. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ slug: string }>({
  GET: async (_request, { slug }) => json(preflightSchema, await preflight(boot(), appAt(boot(), slug))),
});
