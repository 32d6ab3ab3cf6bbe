import type { Fault } from "./fault";

/** It asks for a tool that nobody offered it. */
export const toolNotOffered: Fault = {
  says: "asks for a tool that was not offered",
  needs: {},
  misplaces: "not-offered",
};
