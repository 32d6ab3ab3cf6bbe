import type { Fault } from "./fault";

/** It falls silent in mid-stream, and keeps the connection open. */
export const stalled: Fault = {
  says: "falls silent",
  needs: { after: 5 },
  stop: () => {},
};
