import { useEffect, useState } from "react";
import type { Clock } from "./track-now";

/** Milliseconds between two looks at what is under way. */
const beat = 200;

/** How far the server's clock is ahead of this tab's, in milliseconds; as it was told last. */
let ahead = 0;

/** Takes note of the server's clock, by an answer that came just now. @param now epoch milliseconds */
export function tellServerTime(now: number): void {
  ahead = now - Date.now();
}

/** The clock, looked at again for as long as something is under way. */
export function useClock(isRunning: boolean): Clock {
  const [here, setHere] = useState(() => performance.now());
  useEffect(() => {
    setHere(performance.now());
    if (!isRunning) return;
    const timer = setInterval(() => setHere(performance.now()), beat);
    return () => clearInterval(timer);
  }, [isRunning]);
  return { here, offset: performance.timeOrigin + ahead };
}
