import { switchOnSchema } from "@/contract/providers";
import { boot } from "@/server/boot";
import { bodyOf, route } from "@/server/http/route";
import { probe } from "@/server/providers/probe";
import { providerAt } from "@/server/providers/provider-view";

/** Probes a provider with one of its models; each step is a line of NDJSON as it is done. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async POST(request, { id }) {
    const { model } = await bodyOf(request, switchOnSchema);
    const gone = new AbortController();
    request.signal.addEventListener("abort", () => gone.abort());
    const steps = probe(boot(), providerAt(boot(), id), model, gone.signal);
    const utf8 = new TextEncoder();
    const body = new ReadableStream<Uint8Array>({
      async pull(controller) {
        const { value, done } = await steps.next();
        if (done) controller.close();
        else controller.enqueue(utf8.encode(`${JSON.stringify(value)}\n`));
      },
      cancel: () => gone.abort(),
    });
    return new Response(body, {
      headers: { "content-type": "application/x-ndjson", "cache-control": "no-store, no-transform" },
    });
  },
});
