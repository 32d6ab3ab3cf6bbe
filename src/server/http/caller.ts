import type { Asker } from "../conversations/access";
import type { Home } from "../home";

const cookieName = "finch_visitor";
const year = 365 * 24 * 60 * 60;

/** The visitor that a call's cookie names; undefined for a caller without one. */
export function visitorOf({ signer, visitors }: Home, request: Request): string | undefined {
  const cookies = request.headers.get("cookie") ?? "";
  const signed = cookies
    .split(/;\s*/)
    .find((each) => each.startsWith(`${cookieName}=`))
    ?.slice(cookieName.length + 1);
  const visitor = signed === undefined ? undefined : signer.open(plain(signed));
  return visitor !== undefined && visitors.has(visitor) ? visitor : undefined;
}

/** Whoever calls, as one who owns nothing where the call does not say. */
export function askerOf(home: Home, request: Request): Asker {
  return { kind: "visitor", visitor: visitorOf(home, request) ?? "" };
}

/** A cookie's value without its escapes; as it is where they are none. */
function plain(value: string): string {
  try {
    return decodeURIComponent(value);
  } catch {
    return value;
  }
}

/** The header that has a browser keep who its visitor is. */
export function visitorCookie({ signer }: Home, visitor: string): Record<string, string> {
  return {
    "set-cookie": `${cookieName}=${encodeURIComponent(signer.sign(visitor))}; Path=/; Max-Age=${year}; HttpOnly; SameSite=Lax`,
  };
}
