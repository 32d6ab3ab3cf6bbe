import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { benchReplies, type ReplyCall } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import { problemIn, server } from "../shared/api";
import { keys, readEnd } from "../shared/queries";
import { liveReplies } from "../shared/use-live-reply";
import type { EditedDraft } from "./use-draft";

/** What is asked of an app, and how the last of it failed. */
export interface Asking {
  /** Asks for a reply on the draft. @throws what is in `failure` by then */
  ask: (call: ReplyCall) => Promise<void>;
  stop: (reply: string) => Promise<void>;
  putLive: () => Promise<void>;
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
  const [failure, setFailure] = useState<Problem>();

  const ask = useCallback(
    async (call: ReplyCall) => {
      setFailure(undefined);
      try {
        await draft.save();
        const accepted = await liveReplies.ask(() => server.send(benchReplies.ask, { slug, body: call }));
        await readEnd(client, accepted.conversation);
        void client.invalidateQueries({ queryKey: keys.app(slug) });
        if (accepted.conversation === conversation) return;
        begunHere.current = accepted.conversation;
        onBegun(accepted.conversation);
      } catch (error) {
        setFailure(problemIn(error, "The message"));
        throw error;
      }
    },
    [slug, client, conversation, draft.save, onBegun],
  );

  const stop = useCallback(async (reply: string) => {
    try {
      await server.send(benchReplies.stop, { id: reply });
    } catch (error) {
      setFailure(problemIn(error, "Stopping"));
    }
  }, []);

  const putLive = useCallback(async () => {
    setFailure(undefined);
    try {
      await draft.putLive();
    } catch (error) {
      setFailure(problemIn(error, "Putting it live"));
    }
  }, [draft.putLive]);

  return { ask, stop, putLive, failure, begunHere: begunHere.current };
}
