import { useEffect, useState } from "react";

/** Milliseconds between two looks at the clock: minutes are the smallest that a prompt tells. */
const often = 10_000;

/** The time now, in epoch milliseconds, as far as a minute: it changes with the minute, and nothing in between. */
export function useNow(): number {
  const [now, setNow] = useState(minuteNow);
  useEffect(() => {
    const timer = setInterval(() => setNow(minuteNow()), often);
    return () => clearInterval(timer);
  }, []);
  return now;
}

function minuteNow(): number {
  return Math.floor(Date.now() / 60_000) * 60_000;
}
