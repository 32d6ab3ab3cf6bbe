import type { Fault } from "./fault";

/** The connection is gone in mid-stream. */
export const dropped: Fault = {
  says: "drops the connection",
  needs: { after: 5 },
  stop: (response) => response.destroy(),
};
