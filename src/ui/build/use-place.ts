import { useSearchParams } from "next/navigation";
import { useCallback, useEffect, useState } from "react";
import { flushSync } from "react-dom";

/**
 * The conversation that is open, null for one that does not exist yet, and how to go to another: at once, so that the
 * next key is heard there. The address says where one is.
 */
export function usePlace(): { conversation: string | null; go: (conversation: string | null) => void } {
  const address = useSearchParams().toString();
  const [conversation, setConversation] = useState(conversationInAddress);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a link may have led elsewhere
  useEffect(() => setConversation(conversationInAddress()), [address]);
  const go = useCallback((to: string | null) => {
    window.history.replaceState(null, "", `?${new URLSearchParams({ conversation: to ?? "new" })}`);
    flushSync(() => setConversation(to));
  }, []);
  return { conversation, go };
}

function conversationInAddress(): string | null {
  const named = new URLSearchParams(window.location.search).get("conversation");
  return named === "new" ? null : named;
}
