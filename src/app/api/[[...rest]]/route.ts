import { route } from "@/server/http/route";
import { refuse } from "@/server/refusal";

const nothing = (request: Request): never =>
  refuse("not-found", `There is nothing at ${new URL(request.url).pathname}.`);

/** Every address under /api that no other route answers. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: nothing,
  POST: nothing,
  PUT: nothing,
  PATCH: nothing,
  DELETE: nothing,
});
