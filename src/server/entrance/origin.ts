import { type Problem, problem } from "@/core/problem/problem";
import { doorOf, isLoopback } from "./door";

/** An address in numbers, which no other's name can be made to point to. */
const inNumbers = /^(?:\d{1,3}(?:\.\d{1,3}){3}|\[[0-9a-f:.]+\])$/i;

/** What pages of other origins may ask for: each app says which, where it answers. */
const shared = /^\/(?:api\/apps|talk)\//;

/** Whether pages of other origins may ask for what is at a path. */
export function isShared(path: string): boolean {
  return shared.test(path);
}

/** Why a request may not be answered, whatever stands at its path. */
export function refusedAt(path: string, headers: Headers): Problem | undefined {
  const host = refusedHost(headers);
  if (host || isShared(path)) return host;
  return refusedOrigin(headers) ?? refusedByProxy(headers);
}

/**
 * Why a request may not be answered, if so: its Host is not one of ours, since a page elsewhere could have had
 * its own name point here. @param names hosts that the developer says are ours
 */
export function refusedHost(headers: Headers, names: readonly string[] = ownNames()): Problem | undefined {
  const door = doorOf(headers);
  const host = headers.get("host") ?? "";
  const name = host.replace(/:\d+$/, "").toLowerCase();
  if (isLoopback(name) || names.includes(name)) return undefined;
  if (!door.isHere && inNumbers.test(name)) return undefined;
  return problem("forbidden", `The Host ${host || "that is missing"} is not one that Unruly Finch answers to.`, {
    advice: "Call the address that was printed at the start, or name the host in FINCH_HOSTS.",
  });
}

/** Why a request of another site's page may not be answered, where only pages of this address may call. */
export function refusedOrigin(headers: Headers): Problem | undefined {
  const origin = headers.get("origin");
  if (origin === null || origin === doorOf(headers).origin) return undefined;
  return problem("forbidden", `Calls from pages of ${origin} are not allowed.`, {
    advice: "Call from a page of this address.",
  });
}

/**
 * Why a request that a proxy passed on does not reach the bench, where only this machine is listened to: then it
 * is open to who is on it, and nobody knows who is behind a proxy.
 */
export function refusedByProxy(headers: Headers): Problem | undefined {
  if (!isLoopback(process.env.FINCH_HOST ?? "127.0.0.1") || doorOf(headers).isHere) return undefined;
  return problem("forbidden", "The bench is open on this machine only, and this came by a proxy.", {
    advice: "Pass on the paths /talk and /api/apps alone, or set FINCH_HOST so that the bench asks who comes in.",
  });
}

function ownNames(): string[] {
  return (process.env.FINCH_HOSTS ?? "")
    .split(",")
    .map((name) => name.trim().toLowerCase())
    .filter(Boolean);
}
