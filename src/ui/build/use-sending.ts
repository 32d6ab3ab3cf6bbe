import { useCallback, useEffect, useRef, useState } from "react";
import type { ReplyCall } from "@/contract/replies";
import { isLast } from "@/core/reply/events";
import { liveReplies } from "../shared/use-live-reply";
import { keptTexts } from "./use-kept-text";

/** Under what name the words of a conversation are kept until they are sent; null for one that does not exist yet. */
export function textName(slug: string, conversation: string | null): string {
  return `finch.composer.${slug}.${conversation ?? "new"}`;
}

/** How what is written in the open conversation is sent. */
export interface Sending {
  /** Sends to the conversation that is open; gives whether it was taken. */
  send: (text: string) => Promise<boolean>;
  /** Whether what is written in the open conversation goes out when its reply has ended. */
  waits: boolean;
  onWait: (waits: boolean) => void;
  /** Goes to a conversation that does not exist yet. */
  startNew: () => void;
}

/**
 * What is sent, and what waits, belongs to the conversation in which it was written, whichever is open by then: what
 * waits in another goes out there, and a conversation that was begun is gone to only where nobody has left meanwhile.
 */
export function useSending(
  slug: string,
  conversation: string | null,
  go: (conversation: string | null) => void,
  ask: (call: ReplyCall) => Promise<string | undefined>,
): Sending {
  const [waiting, setWaiting] = useState<ReadonlySet<string>>(new Set());
  const here = useRef(conversation);
  here.current = conversation;
  /** How often a new conversation was wanted. */
  const beginnings = useRef(0);

  const sendTo = useCallback(
    async (to: string | null, text: string) => {
      const beginning = beginnings.current;
      const begun = await ask({ message: text, ...(to === null ? {} : { conversation: to }) });
      if (begun === undefined) return false;
      const isStillHere = to === null && here.current === null && beginning === beginnings.current;
      if (!isStillHere) return true;
      keptTexts.move(textName(slug, null), textName(slug, begun));
      go(begun);
      return true;
    },
    [slug, go, ask],
  );

  const onWait = useCallback(
    (waits: boolean) =>
      setWaiting((before) => {
        const after = new Set(before);
        if (here.current !== null && waits) after.add(here.current);
        else if (here.current !== null) after.delete(here.current);
        return after;
      }),
    [],
  );

  useEffect(
    () =>
      liveReplies.onTurn(({ conversation: of, event }) => {
        if (!isLast(event) || of === here.current || !waiting.has(of)) return;
        setWaiting((before) => new Set([...before].filter((each) => each !== of)));
        const name = textName(slug, of);
        const text = keptTexts.read(name);
        keptTexts.write(name, "");
        if (text.trim() !== "")
          void sendTo(of, text).then((isTaken) => {
            if (!isTaken) keptTexts.giveBack(name, text);
          });
      }),
    [waiting, slug, sendTo],
  );

  return {
    send: useCallback((text) => sendTo(conversation, text), [sendTo, conversation]),
    waits: conversation !== null && waiting.has(conversation),
    onWait,
    startNew: useCallback(() => {
      beginnings.current += 1;
      go(null);
    }, [go]),
  };
}
