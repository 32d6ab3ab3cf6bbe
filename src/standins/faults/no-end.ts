import type { Fault } from "./fault";

/** The events that mark the end are left out. */
export const noEnd: Fault = {
  says: "leaves out the end",
  needs: {},
  hasNoEnd: true,
};
