import type { Fault } from "./fault";

/** An event is not valid, and the answer ends with it. */
export const brokenJson: Fault = {
  says: "sends broken JSON",
  needs: { after: 5 },
  stop: (response, broken) => void response.write(broken),
  endsStopped: true,
};
