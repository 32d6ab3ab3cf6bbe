/**
 * The server process: Next behind an HTTP server of our own, so that what no route can answer gets a
 * problem document as well, and so that the process ends in good order when it is told to.
 */
import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import type { Socket } from "node:net";
import next from "next";
import { problemDocument } from "@/contract/problem";
import { type Problem, problem } from "@/core/problem/problem";
import type { Home } from "@/server/home";

/** Milliseconds that replies go on after a signal; those that are left then are interrupted. */
const patience = 4_000;
/** Milliseconds after a signal at which the process ends in any case. */
const longest = 9_000;
/** Milliseconds within which signals count as one: a terminal and a parent process both send theirs. */
const oneSignal = 300;
/** Milliseconds that a connection without a call is kept open. */
const keptOpen = 65_000;

const methods = new Set(["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"]);

const hostname = process.env.FINCH_HOST ?? "127.0.0.1";
const port = Number(process.env.FINCH_PORT ?? 4600);

const app = next({ dev: false, hostname, port });
await app.prepare();
const answer = app.getRequestHandler();

const server = createServer((request, response) => {
  const refused = refusalOf(request);
  if (refused) send(response, refused);
  else void answer(request, response);
});
server.keepAliveTimeout = keptOpen;
server.on("clientError", (error: NodeJS.ErrnoException, socket: Socket) => sendRaw(socket, error));
server.on("error", (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === "EADDRINUSE"
      ? `Port ${port} on ${hostname} is taken. Stop what listens there, or choose another with FINCH_PORT.`
      : error.message,
  );
  process.exit(1);
});
server.listen(port, hostname);

let told: number | undefined;
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"] as const) process.on(signal, () => void end());

/** Ends in good order at the first signal, and at once at the second. */
async function end(): Promise<void> {
  const now = performance.now();
  if (told !== undefined && now - told < oneSignal) return;
  if (told !== undefined) process.exit(130);
  told = now;
  setTimeout(() => process.exit(1), longest).unref();
  server.close();
  // the one of everything, which Next's own copy of the module has made
  const boot = (globalThis as { [key: symbol]: Home | undefined })[Symbol.for("unruly-finch.boot")];
  await boot?.leave(patience);
  // what was said last is still on its way
  await new Promise((resolve) => setTimeout(resolve, 100));
  server.closeAllConnections();
  process.exit(0);
}

/** Why a request can't be handed to a route, if it can't. */
function refusalOf({ method = "", url = "" }: IncomingMessage): Problem | undefined {
  if (!methods.has(method))
    return problem("wrong-method", `${method} has no meaning here; there is ${[...methods].join(", ")}.`);
  if (!url.startsWith("/")) return problem("bad-request", `${url} is no path of this server: a path begins with "/".`);
  const [path = ""] = url.split("?");
  try {
    decodeURIComponent(path);
  } catch {
    return problem("bad-request", "The path holds a percent sign that escapes nothing.", {
      advice: 'Write a percent sign as "%25".',
    });
  }
  return undefined;
}

function send(response: ServerResponse, failure: Problem): void {
  const document = problemDocument(failure);
  response.writeHead(document.status, {
    "content-type": "application/problem+json",
    "cache-control": "no-store",
    ...(failure.kind === "wrong-method" ? { allow: [...methods].join(", ") } : {}),
  });
  response.end(JSON.stringify(document));
}

/** Answers what is not even HTTP, where anybody is left to answer. */
function sendRaw(socket: Socket, { code }: NodeJS.ErrnoException): void {
  if (code === "ECONNRESET" || !socket.writable) {
    socket.destroy();
    return;
  }
  const failure =
    code === "HPE_HEADER_OVERFLOW"
      ? problem("too-large", "The headers have more than 16 KiB.", { advice: "Send shorter headers and cookies." })
      : problem("bad-request", "This is no HTTP request that can be read.");
  const document = problemDocument(failure);
  const body = JSON.stringify(document);
  socket.end(
    `HTTP/1.1 ${document.status} ${document.status === 413 ? "Content Too Large" : "Bad Request"}\r\n` +
      `content-type: application/problem+json\r\ncontent-length: ${Buffer.byteLength(body)}\r\nconnection: close\r\n\r\n${body}`,
  );
}
