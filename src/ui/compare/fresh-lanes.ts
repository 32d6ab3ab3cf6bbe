import { useEffect, useState } from "react";
import type { Content } from "@/core/revision/content";
import type { NewLane } from "./comparison";

/** Candidates that are handed from one view of Compare to the next, by the address of their app. */
const handed = new Map<string, readonly NewLane[]>();

/** Has candidates stand in the view of Compare that is opened next. */
export function chooseLanes(slug: string, lanes: readonly NewLane[]): void {
  handed.set(slug, lanes);
}

/**
 * The candidates that are to be asked: those that were handed on, with what the live revision and the draft are by now.
 * @param first those to begin with, where none were
 */
export function useFreshLanes(
  slug: string,
  { live, draft }: { live: Content; draft: Content },
  first: () => readonly NewLane[],
) {
  const state = useState(() =>
    (handed.get(slug) ?? first()).map((lane) => {
      const now = lane.base === "live" ? live : lane.base === "draft" ? draft : lane.content;
      return lane.changedFrom ? lane : { ...lane, content: now };
    }),
  );
  useEffect(() => void handed.delete(slug), [slug]);
  return state;
}
