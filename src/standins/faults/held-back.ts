import type { Fault } from "./fault";

/** All of the stream comes at its end. */
export const heldBack: Fault = {
  says: "holds the stream back to its end",
  needs: {},
  isHeld: true,
};
