import type { Fault } from "./fault";

/** It leads elsewhere. */
export const redirect: Fault = {
  says: "redirects elsewhere",
  needs: {},
  refuse(response, { to = "http://127.0.0.1:9/elsewhere" }) {
    response.writeHead(307, { location: to });
    response.end();
  },
};
