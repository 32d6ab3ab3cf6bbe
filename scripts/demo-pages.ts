import { readFileSync } from "node:fs";
import { createServer } from "node:http";
import { pagesPort } from "./seed-documents";

/** Serves the page that Harbour Desk answers from, as a site of the line would: it is read from the file at each call. */
const page = "demo/harbour-desk/documents/access.html";

createServer((request, response) => {
  if (new URL(request.url ?? "/", "http://localhost").pathname !== "/access.html") {
    response.writeHead(404, { "content-type": "text/plain" }).end("There is /access.html.\n");
    return;
  }
  response.writeHead(200, { "content-type": "text/html; charset=utf-8", "cache-control": "no-store" });
  response.end(readFileSync(page));
}).listen(pagesPort, "127.0.0.1");
