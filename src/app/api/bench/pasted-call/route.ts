import { pastedCallSchema, rawAnswerSchema } from "@/contract/providers";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { pastedCall } from "@/server/providers/trial-call";

/** Makes a pasted request as it stands, and gives its raw answer. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({
  POST: async (request) =>
    json(rawAnswerSchema, await pastedCall(await bodyOf(request, pastedCallSchema), request.signal)),
});
