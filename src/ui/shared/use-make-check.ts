import { useRouter } from "next/navigation";
import { checks } from "@/contract/checks";
import { server } from "./api";
import { keys } from "./queries";
import { useChange } from "./use-change";

/** Makes a check of a conversation, or of one reply in it, and goes to where it is weeded. */
export function useMakeCheck(slug: string, conversation: string) {
  const router = useRouter();
  return useChange(
    "The check",
    async (reply: string | undefined) => {
      const body = reply === undefined ? {} : { reply };
      const { check } = await server.send(checks.fromConversation, { id: conversation, body });
      router.push(`/apps/${slug}/checks?${new URLSearchParams({ edit: "", check })}`);
    },
    [keys.scripts(slug)],
  );
}
