import { useSearchParams } from "next/navigation";
import { useCallback, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { keptTexts } from "../../shared/use-kept-text";
import { textName } from "./conversation-store";
import { freshPlace, leavePlace, nextPlace, type Place, placeIn, searchOf } from "./place";

const keeps = { tab: () => sessionStorage, browser: () => localStorage };

/**
 * The conversation that is looked at, which the address says, and how to go to another: at once, so that the next key
 * is heard there.
 */
export function usePlace(slug: string): {
  place: Place;
  /** Goes to a conversation that does not exist yet. */
  startNew: () => void;
  /** Takes note that the one that is looked at was begun. */
  wasBegun: (id: string) => void;
} {
  const address = useSearchParams().toString();
  const [place, setPlace] = useState(() => placeNow(slug));
  // biome-ignore lint/correctness/useExhaustiveDependencies: a link, or a step back, may have led elsewhere
  useEffect(() => setPlace((before) => same(before, placeNow(slug))), [address, slug]);
  const here = useRef(place);
  here.current = place;
  useEffect(() => {
    const leave = () => {
      const { id, isBegun } = here.current;
      if (!isBegun && keptTexts.read(textName(id)) !== "") leavePlace(keeps, slug);
    };
    window.addEventListener("pagehide", leave);
    return () => window.removeEventListener("pagehide", leave);
  }, [slug]);
  const startNew = useCallback(() => {
    const next = freshPlace(keeps, slug);
    window.history.pushState(null, "", searchOf(next));
    flushSync(() => setPlace(next));
  }, [slug]);
  const wasBegun = useCallback(
    (id: string) => {
      // the next one that is begun is another
      if (nextPlace(keeps, slug).id === id) freshPlace(keeps, slug);
      if (here.current.id !== id || here.current.isBegun) return;
      const begun = { id, isBegun: true };
      window.history.replaceState(null, "", searchOf(begun));
      setPlace(begun);
    },
    [slug],
  );
  return { place, startNew, wasBegun };
}

function placeNow(slug: string): Place {
  return placeIn(window.location.search) ?? nextPlace(keeps, slug);
}

function same(before: Place, now: Place): Place {
  return before.id === now.id && before.isBegun === now.isBegun ? before : now;
}
