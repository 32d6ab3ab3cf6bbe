import type { Fault } from "./fault";

/** It ends well, without a word. */
export const empty: Fault = {
  says: "says nothing",
  needs: {},
  isSilent: true,
};
