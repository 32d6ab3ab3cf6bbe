import type { Fault } from "./fault";

/** An event comes twice. */
export const twice: Fault = {
  says: "says an event twice",
  needs: { after: 3 },
  isTwice: true,
};
