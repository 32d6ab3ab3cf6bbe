import type { Fault } from "./fault";

/** It breaks off the arguments that it gives a tool. */
export const argumentsNotJson: Fault = {
  says: "gives tools arguments that are no JSON",
  needs: {},
  misplaces: "not-json",
};
