import { useState } from "react";
import type { NewLane } from "./comparison";

/** The candidates that were chosen for an app and not asked yet, by its address: they stay when one asks them otherwise. */
const chosen = new Map<string, readonly NewLane[]>();

/** Has candidates stand there to be asked. */
export function chooseLanes(slug: string, lanes: readonly NewLane[]): void {
  chosen.set(slug, lanes);
}

/** The candidates that are to be asked. @param first those to begin with, where none were chosen yet */
export function useFreshLanes(slug: string, first: () => readonly NewLane[]) {
  const [lanes, setLanes] = useState(() => chosen.get(slug) ?? first());
  const set = (next: readonly NewLane[]) => {
    chooseLanes(slug, next);
    setLanes(next);
  };
  return [lanes, set] as const;
}
