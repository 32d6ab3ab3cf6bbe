import { useQuery } from "@tanstack/react-query";
import { revisions } from "@/contract/revisions";
import { server } from "../api";
import { keys } from "../queries";

/** The content of the live revision. @param number of it; undefined while that is not known */
export function useLive(slug: string, number: number | undefined) {
  return useQuery({
    queryKey: [...keys.app(slug), "live", number],
    queryFn: async () => {
      const page = await server.send(revisions.list, { slug, before: (number ?? 0) + 1 });
      const [found] = page.revisions;
      if (!found) throw new Error(`There is no revision ${number}.`);
      return found.content;
    },
    enabled: number !== undefined,
  });
}
