import type { Fault } from "./fault";

/** It begins late. */
export const slowStart: Fault = {
  says: "begins late",
  needs: { ms: 3000 },
  late: ({ ms = 0 }) => ms,
};
