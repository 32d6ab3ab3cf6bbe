import { type RefObject, useEffect, useRef, useState } from "react";
import type { TalkState } from "@/module/talk";

/**
 * What the page and a site that shows it in a frame tell each other, by `postMessage`. The site hears that the page is
 * `opened`, its `height` in pixels, the end of each `reply` and that the visitor `closed` it; it may say that it can be
 * closed (`closable`), and who the visitor is (`identity`). Only sites that the app allows can show the page at all, and
 * nothing that was said leaves it this way.
 */
type ToSite =
  | { finch: "opened" }
  | { finch: "height"; height: number }
  | { finch: "reply"; conversation: string | null; reply: string; state: string }
  | { finch: "closed" };

/** The site that shows the page in a frame, as far as there is one. */
export interface Site {
  isThere: boolean;
  /** What it signed of who the visitor is; null where it said nothing. */
  identity: string | null;
  /** Tells it that the visitor closes the page; null where it can't be closed. */
  close: (() => void) | null;
}

/** Milliseconds between two heights that are told, while text arrives. */
const patience = 100;

/** Hears what the site says, and tells it that the page is open. */
export function useSite(): Site {
  const [isThere, setThere] = useState(false);
  const [identity, setIdentity] = useState<string | null>(null);
  const [canClose, setCanClose] = useState(false);

  useEffect(() => {
    if (window.parent === window) return;
    const hear = ({ source, data }: MessageEvent) => {
      if (source !== window.parent || typeof data !== "object" || data === null) return;
      if (data.finch === "closable") setCanClose(true);
      if (data.finch === "identity" && typeof data.identity === "string") setIdentity(data.identity);
    };
    window.addEventListener("message", hear);
    setThere(true);
    tell({ finch: "opened" });
    return () => window.removeEventListener("message", hear);
  }, []);

  return { isThere, identity, close: canClose ? () => tell({ finch: "closed" }) : null };
}

/** Tells the site how high the page is, and of each reply that has ended. @param content all that is shown */
export function useTelling(isFramed: boolean, state: TalkState, content: RefObject<HTMLElement | null>): void {
  useEffect(() => {
    if (!isFramed || !content.current) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const watcher = new ResizeObserver(() => {
      timer ??= setTimeout(() => {
        timer = undefined;
        tell({ finch: "height", height: Math.ceil(content.current?.getBoundingClientRect().height ?? 0) });
      }, patience);
    });
    watcher.observe(content.current);
    return () => {
      clearTimeout(timer);
      watcher.disconnect();
    };
  }, [isFramed, content]);

  const last = state.messages.at(-1);
  const wasUnderWay = useRef(false);
  useEffect(() => {
    if (state.state !== "ready") wasUnderWay.current = true;
    else if (wasUnderWay.current && last?.role === "app") {
      wasUnderWay.current = false;
      if (isFramed) tell({ finch: "reply", conversation: state.conversation, reply: last.id, state: last.state });
    }
  }, [isFramed, state.state, state.conversation, last]);
}

function tell(message: ToSite): void {
  window.parent.postMessage(message, "*");
}
