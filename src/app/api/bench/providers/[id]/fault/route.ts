import { faultPlanSchema, faultSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { json } from "@/server/http/problem-response";
import { bodyOf, route } from "@/server/http/route";
import { providerAt } from "@/server/providers/provider-view";
import { faultOf, setFault } from "@/server/providers/standing";

/** What a stand-in does wrong on purpose: told, set and taken back. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async GET(_request, { id }) {
    const plan = await faultOf(providerAt(boot(), id));
    return json(faultSchema, { isStandIn: plan !== undefined, plan: plan ?? null });
  },
  async PUT(request, { id }) {
    await setFault(providerAt(boot(), id), await bodyOf(request, faultPlanSchema));
    return new Response(null, { status: 204 });
  },
  async DELETE(_request, { id }) {
    await setFault(providerAt(boot(), id), null);
    return new Response(null, { status: 204 });
  },
});
