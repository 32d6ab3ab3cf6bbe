import { lastAnswerSchema, triedSchema, tryProviderSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { providerAt } from "@/server/providers/provider-view";
import { lastAnswer, trialCall } from "@/server/providers/trial-call";

/** The last answer of a provider that is kept; and a call of it, apart from any conversation. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  GET: (_request, { id }) => json(lastAnswerSchema, { last: lastAnswer(boot(), providerAt(boot(), id)) }),
  async POST(request, { id }) {
    const { model, message, stream } = await bodyOf(request, tryProviderSchema);
    const call = {
      model,
      stream,
      messages: [{ role: "visitor" as const, text: message }],
      settings: { maxOutput: 300 },
    };
    return json(triedSchema, await trialCall(boot(), providerAt(boot(), id), call, request.signal));
  },
});
