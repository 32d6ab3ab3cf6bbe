import type { Fault } from "./fault";

/** A page comes instead of an answer, as where a network asks to sign in. */
export const page: Fault = {
  says: "answers with a page",
  needs: {},
  refuse(response) {
    response.writeHead(200, { "content-type": "text/html; charset=utf-8" });
    response.end("<!doctype html><title>Welcome</title><h1>Please sign in to the harbour network</h1>");
  },
};
