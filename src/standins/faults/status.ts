import { sendJson } from "../json";
import type { Fault } from "./fault";

/** It answers with an error, in its own style. */
export const status: Fault = {
  says: "answers with a status",
  needs: { status: 429, retryAfter: 2 },
  refuse(response, { status = 500, retryAfter }, failure) {
    if (retryAfter !== undefined) response.setHeader("retry-after", retryAfter);
    sendJson(response, status, failure(status, `A fault plan answers ${status}.`));
  },
};
