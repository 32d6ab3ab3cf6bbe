import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { benchReplies, type ReplyCall } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/revision";
import { server } from "../shared/api";
import { keys, readEnd } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { liveReplies } from "../shared/use-live-reply";
import type { EditedDraft } from "./use-draft";

/** What is asked of an app, and how the last of it failed. */
export interface Asking {
  /** Asks for a reply on the draft; gives whether it was taken. */
  ask: (call: ReplyCall) => Promise<boolean>;
  stop: (reply: string) => void;
  putLive: (other?: Content) => void;
  failure: Problem | undefined;
  /** The conversation that was begun from here. */
  begunHere: string | null;
}

/**
 * Asks the draft of an app, in a conversation or in a new one.
 * @param onBegun is told of a conversation that was begun
 */
export function useAsking(
  slug: string,
  draft: EditedDraft,
  conversation: string | null,
  onBegun: (conversation: string) => void,
): Asking {
  const client = useQueryClient();
  const begunHere = useRef<string | null>(null);
  const stopping = useChange("Stopping", (reply: string) => server.send(benchReplies.stop, { id: reply }));
  const puttingLive = useChange("Putting it live", (other: Content | undefined) => draft.putLive(other));
  const asking = useChange("The message", async (call: ReplyCall) => {
    stopping.putAside();
    puttingLive.putAside();
    await draft.save();
    const accepted = await liveReplies.ask(() => server.send(benchReplies.ask, { slug, body: call }));
    await readEnd(client, accepted.conversation);
    void client.invalidateQueries({ queryKey: keys.app(slug) });
    if (accepted.conversation === conversation) return;
    begunHere.current = accepted.conversation;
    onBegun(accepted.conversation);
  });

  const { done } = asking;
  const ask = useCallback(async (call: ReplyCall) => (await done(call)).ok, [done]);
  return {
    ask,
    stop: stopping.run,
    putLive: puttingLive.run,
    failure: asking.problem ?? stopping.problem ?? puttingLive.problem,
    begunHere: begunHere.current,
  };
}
