import { useCallback, useEffect, useRef, useState } from "react";

/** Pixels from the end within which the reader still counts as following. */
const nearEnd = 48;

/**
 * Follows the text in a frame as it comes, unless the reader has scrolled up.
 * @param end changes when something new was sent, which brings the reader back to the end
 */
export function useFollowing<F extends HTMLElement, C extends HTMLElement>(end: string) {
  const frame = useRef<F>(null);
  const content = useRef<C>(null);
  const follows = useRef(true);
  const top = useRef(0);
  const [isAway, setAway] = useState(false);

  const toEnd = useCallback(() => {
    follows.current = true;
    setAway(false);
    if (frame.current) frame.current.scrollTop = frame.current.scrollHeight;
  }, []);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new end is what brings the reader back
  useEffect(toEnd, [end, toEnd]);

  useEffect(() => {
    if (!content.current) return;
    const observer = new ResizeObserver(() => {
      if (!frame.current) return;
      if (follows.current) frame.current.scrollTop = frame.current.scrollHeight;
      // where all of it is seen there is no way back to show
      else setAway(isBeyond(frame.current));
    });
    observer.observe(content.current);
    if (frame.current) observer.observe(frame.current);
    return () => observer.disconnect();
  }, []);

  // what unfolds is read from its head, wherever the end is by then
  useEffect(() => {
    const { current } = frame;
    if (!current) return;
    const leave = () => {
      follows.current = false;
      top.current = current.scrollTop;
      setAway(isBeyond(current));
    };
    current.addEventListener("unfold", leave);
    return () => current.removeEventListener("unfold", leave);
  }, []);

  const onScroll = () => {
    const { scrollTop } = frame.current as F;
    // text that came since the frame was moved takes it from its end; only a reader moves it up
    if (!isBeyond(frame.current as F)) follows.current = true;
    else if (scrollTop < top.current) follows.current = false;
    top.current = scrollTop;
    setAway(!follows.current);
  };

  return { frame, content, onScroll, isAway, toEnd };
}

/** Whether there is more in a frame below what is seen of it. */
function isBeyond({ scrollTop, scrollHeight, clientHeight }: HTMLElement): boolean {
  return scrollHeight - scrollTop - clientHeight >= nearEnd;
}
