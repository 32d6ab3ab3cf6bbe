import type { Fault } from "./fault";

/** What is told of the tokens is no count. */
export const wrongUsage: Fault = {
  says: "reports wrong usage",
  needs: {},
  usage: "wrong",
};
