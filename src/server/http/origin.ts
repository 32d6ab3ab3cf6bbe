import { type Problem, problem } from "@/core/problem/problem";

const loopback = /^(?:localhost|127(?:\.\d{1,3}){3}|\[::1\])$/i;

/**
 * Why a request may not be answered, if so: its Host is not one of ours (a page elsewhere could
 * have had its own name point here), or its Origin is another site's.
 */
export function refusedOrigin(headers: Headers): Problem | undefined {
  const host = headers.get("host") ?? "";
  if (!loopback.test(host.replace(/:\d+$/, "")))
    return problem("forbidden", `The Host ${host || "that is missing"} is not one that Unruly Finch answers to.`);
  const origin = headers.get("origin");
  if (origin !== null && origin !== `http://${host}`)
    return problem("forbidden", `Calls from pages of ${origin} are not allowed.`, {
      advice: "Call from a page of this address.",
    });
  return undefined;
}
