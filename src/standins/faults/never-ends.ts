import type { Fault } from "./fault";

/** It goes on for ever. */
export const neverEnds: Fault = {
  says: "never ends",
  needs: {},
  isEndless: true,
};
