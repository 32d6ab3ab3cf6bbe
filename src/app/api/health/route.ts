import { healthSchema } from "@/contract/health";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { version } from "../../../../package.json";

/** Whether the server answers and can store what it is told; 503 where it can't. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET() {
    const home = boot();
    const problem = home.hub.problem ?? null;
    const ok = problem === null && !home.isClosing();
    return json(healthSchema, { ok, version, problem }, ok ? 200 : 503);
  },
});
