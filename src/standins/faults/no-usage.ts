import type { Fault } from "./fault";

/** Nothing is told of the tokens. */
export const noUsage: Fault = {
  says: "reports no usage",
  needs: {},
  usage: "none",
};
