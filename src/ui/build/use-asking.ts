import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { benchReplies, type ReplyCall } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { server } from "../shared/api";
import { keys, readEnd } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { liveReplies } from "../shared/use-live-reply";
import type { EditedDraft } from "./use-draft";

/** What is asked of an app, and how the last of it failed. */
export interface Asking {
  /** Asks for a reply on the draft; gives the conversation that it is in, or nothing where it was not taken. */
  ask: (call: ReplyCall) => Promise<string | undefined>;
  stop: (reply: string) => void;
  putLive: (other?: Content) => void;
  failure: Problem | undefined;
}

/** Asks the draft of an app, in a conversation or in a new one. */
export function useAsking(slug: string, draft: EditedDraft): Asking {
  const client = useQueryClient();
  const stopping = useChange("Stopping", (reply: string) => server.send(benchReplies.stop, { id: reply }));
  const puttingLive = useChange("Putting it live", (other: Content | undefined) => draft.putLive(other));
  const asking = useChange("The message", async (call: ReplyCall) => {
    stopping.putAside();
    puttingLive.putAside();
    await draft.save();
    const accepted = await liveReplies.ask(() => server.send(benchReplies.ask, { slug, body: call }));
    await readEnd(client, accepted.conversation);
    void client.invalidateQueries({ queryKey: keys.app(slug) });
    return accepted.conversation;
  });

  const { done } = asking;
  const ask = useCallback(
    async (call: ReplyCall) => {
      const taken = await done(call);
      return taken.ok ? taken.value : undefined;
    },
    [done],
  );
  return {
    ask,
    stop: stopping.run,
    putLive: puttingLive.run,
    failure: asking.problem ?? stopping.problem ?? puttingLive.problem,
  };
}
