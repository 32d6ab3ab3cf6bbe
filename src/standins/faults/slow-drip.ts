import type { Fault } from "./fault";

/** Tokens come one by one, with a wait between them. */
export const slowDrip: Fault = {
  says: "drips",
  needs: { ms: 400 },
  pace: (pace, { ms = 0 }) => ({ ...pace, tokensPerSecond: 1000 / Math.max(ms, 1) }),
};
