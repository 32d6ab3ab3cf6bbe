import type { Fault } from "./fault";

/** It asks for a tool again, whatever that says. */
export const callsWithoutEnd: Fault = {
  says: "asks for tools without end",
  needs: {},
  misplaces: "without-end",
};
