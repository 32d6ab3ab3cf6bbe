import { readFileSync } from "node:fs";
import http from "node:http";
import https from "node:https";
import type { Duplex, Readable } from "node:stream";
import { rootCertificates } from "node:tls";
import { HttpProxyAgent } from "http-proxy-agent";
import { HttpsProxyAgent } from "https-proxy-agent";
import { getProxyForUrl } from "proxy-from-env";
import type { Limits } from "@/contract/providers";
import { type Problem, problem } from "@/core/problem/problem";
import type { AnswerHead } from "@/core/wire/decode";
import { saneWait } from "@/core/wire/failure";
import { acceptedEncodings, UnknownEncoding, unpackerFor } from "./unpacking";

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
  /** `name:password` for that proxy. */
  proxyLogin?: string;
  /** A file of certificates to trust beside the usual ones. */
  caFile?: string | null;
}

/** Headers of every request that does not say otherwise. */
export const alwaysSent = { "accept-encoding": acceptedEncodings };

const kept = { keepAlive: true, maxFreeSockets: 32 };
const agents = new Map<string, http.Agent>();

/** The agent for a URL; connections are kept open and shared by all that go the same way. */
function agentFor(url: URL, { proxy, proxyLogin, caFile }: Way): http.Agent {
  const through = proxy ? withLogin(proxy, proxyLogin) : getProxyForUrl(url.href);
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

function withLogin(proxy: string, login: string | undefined): string {
  if (!login) return proxy;
  const url = new URL(proxy);
  const [name = "", ...password] = login.split(":");
  url.username = encodeURIComponent(name);
  url.password = encodeURIComponent(password.join(":"));
  return url.href;
}

/**
 * Sends a request and tells what comes back, under time limits. Redirects are not followed: the
 * request may carry a key. Compressed answers are given as they were before. It never throws: a request
 * that can't be made is told to the listener like any other failure.
 */
export function exchange(outgoing: Outgoing, limits: Limits, listener: Listener, way: Way = {}): Exchange {
  const refused = (failure: Problem): Exchange => {
    queueMicrotask(() => listener.fail(failure));
    return { abort: async () => {}, leave: () => {} };
  };
  if (!URL.canParse(outgoing.url) || !/^https?:/i.test(outgoing.url))
    return refused(problem("misconfigured", "The address of the call is no http or https address."));
  const url = new URL(outgoing.url);
  let agent: http.Agent;
  try {
    agent = agentFor(url, way);
  } catch (error) {
    if (!way.caFile)
      return refused(problem("misconfigured", "The proxy that is set can't be used: it is no http address."));
    const why = (error as NodeJS.ErrnoException).code === "ENOENT" ? "there is no such file" : (error as Error).message;
    const failure = problem("misconfigured", `The certificates in ${way.caFile} can't be used: ${why}.`, {
      advice: "Give the path of a PEM file on the Providers page, or leave it empty.",
    });
    return refused(failure);
  }
  try {
    for (const [name, value] of Object.entries(outgoing.headers)) {
      http.validateHeaderName(name);
      http.validateHeaderValue(name, value);
    }
  } catch (error) {
    const name = /\["?([^"\]]+)"?\]/.exec((error as Error).message)?.[1] ?? "";
    return refused(
      problem("misconfigured", `The header ${name} can't be sent: HTTP allows one line of plain characters there.`, {
        advice: "Put the header right where it is set: in the profile, in the credentials, or among the extra headers.",
      }),
    );
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
      let steps: Duplex[];
      try {
        steps = unpackerFor(response);
      } catch (error) {
        if (!(error instanceof UnknownEncoding)) throw error;
        listener.head(headOf(response));
        fail(
          problem(
            "bad-reply",
            `The answer is packed as “${error.message}”, which was not asked for and can't be read.`,
          ),
        );
        return;
      }
      listener.head(headOf(response));
      const body = steps.reduce<Readable>((before, step) => before.pipe(step), response);
      body.on("data", (bytes: Buffer) => {
        if (over) return;
        if (arrived) phase.refresh();
        else next("between");
        arrived = true;
        listener.bytes(bytes);
      });
      const close = (isWhole: boolean) => end(() => listener.close(isWhole));
      if (steps.length === 0)
        for (const event of ["end", "error", "close"]) response.on(event, () => close(response.complete));
      else {
        for (const step of steps)
          step.on("error", (error: NodeJS.ErrnoException) => {
            if (error.code === "Z_BUF_ERROR" || !response.complete) close(false);
            else fail(problem("bad-reply", `The answer is not packed as its headers say: ${error.message}.`));
          });
        body.on("end", () => close(response.complete));
        // what came before a connection broke off is read all the same
        for (const event of ["error", "close"]) response.on(event, () => response.complete || steps[0]?.end());
      }
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
  const options = { method, headers: { ...alwaysSent, ...headers, ...length }, agent };
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
    retryAfter: secondsIn(headers["retry-after"]),
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
  const through = proxy ? ` through the proxy ${new URL(proxy).origin}` : "";
  const advice = certificateErrors.test(code)
    ? { advice: "Name the file with its certificate among the provider's settings, or use an address that is trusted." }
    : {};
  return problem("unreachable", `${url.origin} could not be reached${through}: ${why}.`, advice);
}

/** Seconds from a Retry-After header, which gives seconds or a date; undefined where that is no sane wait. */
function secondsIn(header: string | undefined): number | undefined {
  if (header === undefined || header.trim() === "") return undefined;
  const value = Number(header);
  if (!Number.isNaN(value)) return saneWait(Math.max(value, 0));
  const date = Date.parse(header);
  return Number.isNaN(date) ? undefined : saneWait(Math.max(Math.ceil((date - Date.now()) / 1000), 0));
}
