import { readerArrivalsSchema } from "@/contract/dispatches";
import { boot } from "@/server/boot";
import { bodyOf, route } from "@/server/http/route";

/** Takes note of when the text of a reply arrived at its reader. */
export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route<{ id: string }>({
  async PUT(request, { id }) {
    const { arrivals } = await bodyOf(request, readerArrivalsSchema);
    boot().dispatches.setReader(id, arrivals);
    return new Response(null, { status: 204 });
  },
});
