import type { Fault } from "./fault";

/** It takes what documents say for what it is told to do. */
export const gullible: Fault = {
  says: "obeys what documents say",
  needs: {},
  isGullible: true,
};
