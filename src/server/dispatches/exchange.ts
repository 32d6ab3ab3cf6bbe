import { readFileSync } from "node:fs";
import http from "node:http";
import https from "node:https";
import { rootCertificates } from "node:tls";
import { HttpProxyAgent } from "http-proxy-agent";
import { HttpsProxyAgent } from "https-proxy-agent";
import { getProxyForUrl } from "proxy-from-env";
import type { Limits } from "@/contract/providers";
import { type Problem, problem } from "@/core/reply/problem";
import type { AnswerHead } from "@/core/wire/decode";

/** One HTTP request, ready to go out. */
export interface Outgoing {
  method: string;
  url: string;
  headers: Record<string, string>;
  body?: string;
}

/** What an exchange tells as it goes. After `close` or `fail` nothing more is told. */
export interface Listener {
  head(head: AnswerHead): void;
  bytes(bytes: Buffer): void;
  /** @param isWhole whether the answer came to its own end */
  close(isWhole: boolean): void;
  fail(problem: Problem): void;
}

/** An exchange that is under way. */
export interface Exchange {
  /** Ends it without another word to the listener; resolves when the connection is closed. */
  abort(): Promise<void>;
  /** Ends it without another word, but lets the connection be used again if it is done within a second. */
  leave(): void;
}

/** How a request gets there. */
export interface Way {
  /** The address of a proxy; without one the proxy variables of the environment are heeded. */
  proxy?: string | null;
  /** A file of certificates to trust beside the usual ones. */
  caFile?: string | null;
}

const kept = { keepAlive: true, maxFreeSockets: 32 };
const agents = new Map<string, http.Agent>();

/** The agent for a URL; connections are kept open and shared by all that go the same way. */
function agentFor(url: URL, { proxy, caFile }: Way): http.Agent {
  const through = proxy || getProxyForUrl(url.href);
  const name = `${url.protocol} ${through} ${caFile ?? ""}`;
  const known = agents.get(name);
  if (known) return known;
  const trust = caFile ? { ca: [...rootCertificates, readFileSync(caFile, "utf8")] } : {};
  const isSecure = url.protocol === "https:";
  let agent: http.Agent;
  if (through)
    agent = isSecure ? new HttpsProxyAgent(through, { ...kept, ...trust }) : new HttpProxyAgent(through, kept);
  else agent = isSecure ? new https.Agent({ ...kept, ...trust }) : new http.Agent(kept);
  agents.set(name, agent);
  return agent;
}

/**
 * Sends a request and tells what comes back, under time limits. Redirects are not followed: the
 * request may carry a key.
 */
export function exchange(outgoing: Outgoing, limits: Limits, listener: Listener, way: Way = {}): Exchange {
  const url = new URL(outgoing.url);
  let agent: http.Agent;
  try {
    agent = agentFor(url, way);
  } catch (error) {
    const why = (error as NodeJS.ErrnoException).code === "ENOENT" ? "there is no such file" : (error as Error).message;
    const failure = problem("misconfigured", `The certificates in ${way.caFile} can't be used: ${why}.`, {
      advice: "Give the path of a PEM file on the Providers page, or leave it empty.",
    });
    queueMicrotask(() => listener.fail(failure));
    return { abort: async () => {}, leave: () => {} };
  }
  let request: http.ClientRequest;
  let closed: Promise<void>;
  let over = false;
  let phase: NodeJS.Timeout;

  const end = (tell: () => void) => {
    if (over) return;
    over = true;
    clearTimeout(phase);
    clearTimeout(whole);
    tell();
  };
  const fail = (failure: Problem) =>
    end(() => {
      request.destroy();
      listener.fail(failure);
    });
  const limit = (name: keyof Limits) =>
    setTimeout(
      () =>
        fail(
          problem(
            "timed-out",
            `${limitSayings[name]} within ${limits[name] / 1000} s, the limit \`${name}\` of this provider.`,
          ),
        ),
      limits[name],
    );
  const next = (name: keyof Limits) => {
    clearTimeout(phase);
    if (!over) phase = limit(name);
  };

  const send = () => {
    request = open(url, outgoing, agent);
    closed = new Promise((resolve) => request.once("close", resolve));
    request.on("socket", (socket) => {
      if (socket.connecting) socket.once(url.protocol === "https:" ? "secureConnect" : "connect", () => next("first"));
      else next("first");
    });
    let answered = false;
    request.on("response", (response) => {
      answered = true;
      let arrived = false;
      listener.head(headOf(response));
      response.on("data", (bytes: Buffer) => {
        if (over) return;
        if (arrived) phase.refresh();
        else next("between");
        arrived = true;
        listener.bytes(bytes);
      });
      for (const event of ["end", "error", "close"])
        response.on(event, () => end(() => listener.close(response.complete)));
    });
    request.on("error", (error: NodeJS.ErrnoException) => {
      // a connection that was kept open can be closed by the other side just as it is used again
      if (error.code === "ECONNRESET" && request.reusedSocket && !answered && !over) send();
      else fail(unreachable(error, url, way));
    });
    request.end(outgoing.body);
  };

  const whole = limit("all");
  phase = limit("connect");
  send();

  return {
    abort() {
      end(() => request.destroy());
      return closed;
    },
    leave() {
      end(() => {
        const patience = setTimeout(() => request.destroy(), 1000);
        void closed.then(() => clearTimeout(patience));
      });
    },
  };
}

function open(url: URL, { method, headers, body }: Outgoing, agent: http.Agent): http.ClientRequest {
  const length = body === undefined ? {} : { "content-length": Buffer.byteLength(body) };
  const options = { method, headers: { ...headers, ...length }, agent };
  return url.protocol === "https:" ? https.request(url, options) : http.request(url, options);
}

function headOf(response: http.IncomingMessage): AnswerHead {
  const headers = Object.fromEntries(
    Object.entries(response.headers).map(([name, value]) => [
      name,
      Array.isArray(value) ? value.join(", ") : (value ?? ""),
    ]),
  );
  return {
    status: response.statusCode ?? 0,
    contentType: headers["content-type"] ?? "",
    headers,
    retryAfter: seconds(headers["retry-after"]),
  };
}

const limitSayings: Record<keyof Limits, string> = {
  connect: "No connection to the provider could be made",
  first: "The provider sent nothing",
  between: "The provider fell silent in the middle of its answer: nothing more came",
  all: "The answer was not complete",
};

const errorSayings: Record<string, string> = {
  ECONNREFUSED: "nothing listens there",
  ENOTFOUND: "there is no such host",
  EAI_AGAIN: "the name of the host could not be looked up",
  ECONNRESET: "the connection was closed before an answer came",
  EHOSTUNREACH: "there is no way to that host",
  DEPTH_ZERO_SELF_SIGNED_CERT: "its certificate is signed by itself",
  SELF_SIGNED_CERT_IN_CHAIN: "its certificate is signed by an authority that is not known here",
  CERT_HAS_EXPIRED: "its certificate has expired",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "its certificate is signed by an authority that is not known here",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate is for another name",
  EPROTO: "it does not speak TLS there",
};

const certificateErrors = /^(?:DEPTH_ZERO_SELF_SIGNED_CERT|SELF_SIGNED_CERT_IN_CHAIN|UNABLE_TO_VERIFY_LEAF_SIGNATURE)$/;

function unreachable(error: NodeJS.ErrnoException, url: URL, { proxy }: Way): Problem {
  const code = error.code ?? "";
  const why = errorSayings[code] ?? error.message;
  const through = proxy ? ` through the proxy ${proxy}` : "";
  const advice = certificateErrors.test(code)
    ? { advice: "Name the file with its certificate among the provider's settings, or use an address that is trusted." }
    : {};
  return problem("unreachable", `${url.origin} could not be reached${through}: ${why}.`, advice);
}

/** Seconds from a Retry-After header, which gives seconds or a date. */
function seconds(header: string | undefined): number | undefined {
  if (header === undefined) return undefined;
  const value = Number(header);
  if (Number.isFinite(value)) return Math.max(value, 0);
  const date = Date.parse(header);
  return Number.isNaN(date) ? undefined : Math.max(Math.ceil((date - Date.now()) / 1000), 0);
}
