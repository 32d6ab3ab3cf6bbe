import { lookup as lookupAddress } from "node:dns/promises";
import { isIP, type LookupFunction } from "node:net";
import { Agent, request } from "undici";
import { type Problem, problem } from "@/core/problem/problem";
import { leadsOf } from "./inward";

/**
 * Calls of addresses that somebody else than the developer may have chosen: of documents, tools and hooks. Whoever
 * names one must not reach into the network of the server with it, by a name that leads there, by a redirect, or by a
 * name that leads elsewhere once it was judged. So every address that a name resolves to is judged, the connection goes
 * to one that was, and each redirect is judged anew. No proxy is used, since it would resolve the name once more.
 */

/** What is called, and what is allowed with it. */
export interface GuardedCall {
  url: string;
  method?: "GET" | "POST" | "PUT" | "PATCH" | "DELETE";
  /** They go to the origin of `url` alone, and to no other by a redirect. */
  headers?: Readonly<Record<string, string>>;
  body?: string;
  /** Whether addresses of this machine may be called; those of its network never are. */
  allowsThisMachine?: boolean;
  /** Milliseconds that all of it may take, and bytes that the answer may have. */
  limit?: number;
  mostBytes?: number;
  signal?: AbortSignal;
}

/** The answer of a call, with where it came from after all redirects. */
export interface GuardedAnswer {
  url: string;
  status: number;
  headers: Record<string, string>;
  bytes: Buffer;
}

/** All addresses of a name. @throws what DNS says */
export type Resolve = (name: string) => Promise<readonly string[]>;

const usualLimit = 30_000;
const usualBytes = 20 * 1024 * 1024;
const mostRedirects = 5;
const redirects = new Set([301, 302, 303, 307, 308]);

/** Thrown for an address that may not be called, and for an answer that is too large. */
class Refused extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

/** Makes a call; a problem where it may not be made, or fails. @param resolve for tests alone */
export async function guardedCall(
  call: GuardedCall,
  resolve: Resolve = resolved,
): Promise<GuardedAnswer | { problem: Problem }> {
  const limit = call.limit ?? usualLimit;
  const timeout = AbortSignal.timeout(limit);
  const signal = call.signal ? AbortSignal.any([call.signal, timeout]) : timeout;
  const agent = new Agent({ connect: { lookup: judging(resolve, call.allowsThisMachine === true), timeout: limit } });
  try {
    return await followed(call, agent, signal);
  } catch (error) {
    const refused = refusalIn(error);
    if (refused) return { problem: refused };
    const { origin } = new URL(call.url);
    if (timeout.aborted) return { problem: problem("timed-out", `${origin} did not answer within ${limit / 1000} s.`) };
    const { code, message } = error as NodeJS.ErrnoException;
    return { problem: problem("unreachable", `${origin} could not be reached: ${code ?? message}.`) };
  } finally {
    await agent.destroy();
  }
}

/** The answer at the end of all redirects. */
async function followed(call: GuardedCall, agent: Agent, signal: AbortSignal): Promise<GuardedAnswer> {
  const first = addressIn(call.url);
  let { method = "GET", body } = call;
  for (let url = first, count = 0; ; count += 1) {
    judgeHost(url, call.allowsThisMachine === true);
    const headers = url.origin === first.origin ? call.headers : undefined;
    const response = await request(url, { method, headers, body, dispatcher: agent, signal });
    const location = redirects.has(response.statusCode) ? response.headers.location : undefined;
    if (typeof location !== "string") return whole(url, response, call.mostBytes ?? usualBytes);
    await response.body.dump();
    if (count === mostRedirects) throw new Refused(problem("bad-reply", `${first.origin} leads on without an end.`));
    const next = addressIn(location, url);
    // RFC 9110, 15.4: what was sent goes along with 307 and 308 alone, and here to the same origin alone
    const keepsBody = (response.statusCode === 307 || response.statusCode === 308) && next.origin === url.origin;
    if (!keepsBody && method !== "GET") {
      method = "GET";
      body = undefined;
    }
    url = next;
  }
}

async function whole(
  url: URL,
  { statusCode, headers, body }: Awaited<ReturnType<typeof request>>,
  mostBytes: number,
): Promise<GuardedAnswer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of body as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > mostBytes)
      throw new Refused(problem("too-large", `The answer of ${url.origin} has more than ${mostBytes} bytes.`));
    parts.push(part);
  }
  const told = Object.entries(headers).map(([name, value]) => [name, String(value)]);
  return { url: url.href, status: statusCode, headers: Object.fromEntries(told), bytes: Buffer.concat(parts) };
}

function addressIn(text: string, base?: URL): URL {
  const url = URL.canParse(text, base?.href) ? new URL(text, base) : undefined;
  if (!url || !/^https?:$/.test(url.protocol))
    throw new Refused(problem("bad-request", `${text.slice(0, 200)} is no http or https address.`));
  if (url.username || url.password)
    throw new Refused(problem("bad-request", `The address at ${url.host} holds a name or a password.`));
  return url;
}

/** Judges a host that is an address already: it is not looked up. The URL standard has written it plainly. */
function judgeHost({ hostname }: URL, allowsThisMachine: boolean): void {
  const address = hostname.replace(/^\[|\]$/g, "");
  if (isIP(address) !== 0) judge(address, address, allowsThisMachine);
}

/** @throws {Refused} where an address leads inward, and may not */
function judge(name: string, address: string, allowsThisMachine: boolean): void {
  const leads = leadsOf(address);
  if (leads === "out" || (leads === "this machine" && allowsThisMachine)) return;
  const where = leads === "this machine" ? "to this machine" : "into its network, or nowhere";
  throw new Refused(
    problem("forbidden", `${name === address ? name : `${name} (${address})`} leads ${where}, and is not called.`, {
      advice:
        leads === "this machine"
          ? "Allow this machine where the address is named, if it is meant."
          : "Name an address that can be reached from everywhere.",
    }),
  );
}

/** Looks names up and judges all that is found: a connection is made to nothing else. */
function judging(resolve: Resolve, allowsThisMachine: boolean): LookupFunction {
  return (name, { all }, callback) => {
    resolve(name).then(
      (addresses) => {
        try {
          for (const address of addresses) judge(name, address, allowsThisMachine);
        } catch (error) {
          callback(error as Error, "", 0);
          return;
        }
        const found = addresses.map((address) => ({ address, family: isIP(address) }));
        if (all) callback(null, found);
        else callback(null, found[0]?.address ?? "", found[0]?.family);
      },
      (error: NodeJS.ErrnoException) => callback(error, "", 0),
    );
  };
}

async function resolved(name: string): Promise<readonly string[]> {
  return (await lookupAddress(name, { all: true })).map(({ address }) => address);
}

/** The refusal that an error is, or was caused by. */
function refusalIn(error: unknown): Problem | undefined {
  for (let each = error; each instanceof Error; each = each.cause) if (each instanceof Refused) return each.problem;
  return undefined;
}
