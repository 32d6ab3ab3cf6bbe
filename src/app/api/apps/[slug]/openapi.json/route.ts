import { route } from "@/server/http/route";
import { refuse } from "@/server/refusal";

/** The description of an app's endpoints, which is not written yet. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  GET: () =>
    refuse("not-there-yet", "The OpenAPI document does not exist yet.", {
      advice: "See the README for the endpoints.",
    }),
});
