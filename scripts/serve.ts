/**
 * The server process: Next behind an HTTP server of our own, so that what no route can answer gets a
 * problem document as well, and so that the process ends in good order when it is told to.
 */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { Socket } from "node:net";
import next from "next";
import * as api from "@/app/api/[[...rest]]/route";
import { problemDocument } from "@/contract/problem";
import { type Problem, problem, statusOf } from "@/core/problem/problem";
import { type Door, doorFor, doorHeader, isLoopback } from "@/server/entrance/door";
import { BenchKey, refusedAtTalk } from "@/server/entrance/gate";
import { openHome } from "@/server/home";
import { errorsAt } from "@/server/http/problem-response";
import { isStatic, staticFile } from "@/server/http/static-files";
import { answerStraight } from "@/server/http/straight";

/** Milliseconds that replies go on after a signal; those that are left then are interrupted. */
const patience = 4_000;
/** Milliseconds after a signal at which the process ends in any case. */
const longest = 9_000;
/** Milliseconds within which signals count as one: a terminal and a parent process both send theirs. */
const oneSignal = 300;
/** Milliseconds that a connection without a call is kept open. */
const keptOpen = 65_000;
/** Bytes that the head of a call may have: an export names the conversations that were chosen. */
const maxHeaderSize = 96 * 1024;

/** Milliseconds within which a call has to be there, its body too. */
const mostWaited = 30_000;

const methods = new Set(["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"]);

const hostname = process.env.FINCH_HOST ?? "127.0.0.1";
const port = Number(process.env.FINCH_PORT ?? 4600);
/** A port for pages and apps alone, where there is one. */
const talkPort = process.env.FINCH_TALK_PORT ? Number(process.env.FINCH_TALK_PORT) : undefined;
const proxies = (process.env.FINCH_PROXIES ?? "").split(",").map((each) => each.trim());

const app = next({ dev: false, hostname, port });
await app.prepare();
const answer = app.getRequestHandler();

/** Where more than this machine is listened to, the bench asks for what its one-time link gives. */
let benchKey: BenchKey | undefined;
if (!isLoopback(hostname)) {
  const home = openHome();
  if (!home || talkPort === undefined)
    throw new Error("Where more than this machine is listened to, FINCH_TALK_PORT is needed.");
  benchKey = new BenchKey(home.signer);
}

const servers = [listen("bench", port, "FINCH_PORT")];
if (talkPort !== undefined) servers.push(listen("talk", talkPort, "FINCH_TALK_PORT"));
if (benchKey) {
  const name = hostname === "0.0.0.0" || hostname === "::" ? "127.0.0.1" : hostname;
  console.log(`\nThe bench opens once by this link: http://${name}:${port}${benchKey.path}\n`);
}

/** Listens for one kind of calls. */
function listen(leads: Door["leads"], at: number, variable: string): Server {
  const server = createServer({ maxHeaderSize, connectionsCheckingInterval: 1_000 }, (request, response) => {
    const refused = refusalOf(request) ?? refusedThere(leads, request, response);
    if (refused === "answered") return;
    const [path = ""] = (request.url ?? "").split("?");
    if (refused) return send(response, refused, path);
    if (isStatic(path) && (request.method === "GET" || request.method === "HEAD"))
      return void sendFile(path, request, response);
    const { headers, socket } = request;
    const header = (name: string) => {
      const value = headers[name];
      return Array.isArray(value) ? value.join(", ") : value;
    };
    const peer = socket.remoteAddress ?? "";
    const door = JSON.stringify(doorFor({ leads, listens: hostname, peer, proxies }, header));
    if (path.startsWith("/api/")) {
      answerStraight(api, request, response, [doorHeader, door]).catch((error: unknown) =>
        failed(path, response, error),
      );
      return;
    }
    headers[doorHeader] = door;
    void answer(request, response);
  });
  server.keepAliveTimeout = keptOpen;
  server.headersTimeout = mostWaited;
  server.requestTimeout = mostWaited;
  // Next would end calls that offer another protocol, as Java's do; without a listener they are answered in this one
  server.on("newListener", (event) => {
    if (event === "upgrade") setImmediate(() => server.removeAllListeners("upgrade"));
  });
  server.on("clientError", (error: NodeJS.ErrnoException, socket: Socket) => sendRaw(socket, error));
  server.on("error", (error: NodeJS.ErrnoException) => {
    console.error(
      error.code === "EADDRINUSE"
        ? `Port ${at} on ${hostname} is taken. Stop what listens there, or choose another with ${variable}.`
        : error.message,
    );
    process.exit(1);
  });
  server.listen(at, hostname);
  return server;
}

/** Says that something fell over which should not have, where that can still be said. */
function failed(path: string, response: ServerResponse, error: unknown): void {
  openHome()?.log.error({ error }, "a call could not be answered");
  if (response.headersSent) response.destroy();
  else send(response, problem("internal", "The call could not be answered; the terminal says why."), path);
}

/** Sends a file that never changes, or what there is at its path otherwise. */
async function sendFile(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const file = await staticFile(path, request.headers["accept-encoding"]?.toString());
  if (!file) return answer(request, response);
  response.writeHead(200, { ...file.headers, "content-length": file.body.length });
  response.end(request.method === "HEAD" ? undefined : file.body);
}

/** Why a request is not answered at a port, if it is not; the bench's one-time link is answered here. */
function refusedThere(
  leads: Door["leads"],
  { url = "", headers }: IncomingMessage,
  response: ServerResponse,
): Problem | "answered" | undefined {
  const [path = ""] = url.split("?");
  if (leads === "talk") return refusedAtTalk(path);
  const cookie = benchKey?.cookieFor(path);
  if (cookie === undefined) return benchKey?.refused(path, headers.cookie);
  response.writeHead(303, { location: "/", "set-cookie": cookie, "cache-control": "no-store" }).end();
  return "answered";
}

let told: number | undefined;
for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"] as const) process.on(signal, () => void end());

/** Ends in good order at the first signal, and at once at the second. */
async function end(): Promise<void> {
  const now = performance.now();
  if (told !== undefined && now - told < oneSignal) return;
  if (told !== undefined) process.exit(130);
  told = now;
  setTimeout(() => process.exit(1), longest).unref();
  for (const server of servers) server.close();
  await openHome()?.leave(patience);
  // what was said last is still on its way
  await new Promise((resolve) => setTimeout(resolve, 100));
  for (const server of servers) server.closeAllConnections();
  process.exit(0);
}

/** Why a request can't be handed to a route, if it can't. */
function refusalOf({ method = "", url = "", rawHeaders }: IncomingMessage): Problem | undefined {
  // Node takes the first of several; whoever stands before this server may take another (RFC 9112, 3.2)
  const hosts = rawHeaders.filter((name, at) => at % 2 === 0 && name.toLowerCase() === "host");
  if (hosts.length > 1) return problem("bad-request", "The call names more than one Host.");
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

function send(response: ServerResponse, failure: Problem, path: string): void {
  const { type, write } = errorsAt(withoutDots(path));
  response.writeHead(statusOf(failure.kind), {
    "content-type": type,
    "cache-control": "no-store",
    ...(failure.kind === "wrong-method" ? { allow: [...methods].join(", ") } : {}),
  });
  response.end(JSON.stringify(write(failure, {})));
}

/** A path as a route gets it: its dots lead on. */
function withoutDots(path: string): string {
  return URL.canParse(path, "http://localhost") ? new URL(path, "http://localhost").pathname : path;
}

/** Answers what is not even HTTP, where anybody is left to answer. */
function sendRaw(socket: Socket, { code }: NodeJS.ErrnoException): void {
  if (code === "ECONNRESET" || !socket.writable) {
    socket.destroy();
    return;
  }
  const failure =
    code === "HPE_HEADER_OVERFLOW"
      ? problem("too-large", `The headers have more than ${maxHeaderSize / 1024} KiB.`, {
          advice: "Send shorter headers and cookies.",
        })
      : code === "ERR_HTTP_REQUEST_TIMEOUT"
        ? problem("bad-request", `The call did not come whole within ${mostWaited / 1000} s.`, {
            advice: "Send its headers and its body at once.",
          })
        : problem("bad-request", "This is no HTTP request that can be read.");
  const document = problemDocument(failure);
  const body = JSON.stringify(document);
  socket.end(
    `HTTP/1.1 ${document.status} ${document.status === 413 ? "Content Too Large" : "Bad Request"}\r\n` +
      `content-type: application/problem+json\r\ncontent-length: ${Buffer.byteLength(body)}\r\nconnection: close\r\n\r\n${body}`,
  );
}
