import { parseCookie, stringifySetCookie } from "cookie";
import type { StoredApp } from "../apps/app-store";
import type { HasSigner } from "../security/secret";
import type { HasVisitors } from "./visitor-store";

/** The cookie by which a browser says which visitor it is, on pages of this server. */
const cookieName = "finch_visitor";
const year = 365 * 24 * 60 * 60;

/** The visitor of an app whom the cookie of a request names. */
export function visitorInCookie(
  { signer, visitors }: HasVisitors & HasSigner,
  app: StoredApp,
  request: Request,
): string | undefined {
  // one of the same name, of another path or of before, may stand before it
  for (const pair of (request.headers.get("cookie") ?? "").split(";")) {
    const id = signer.open(parseCookie(pair)[cookieName] ?? "");
    const visitor = id === undefined ? undefined : visitors.byId(app.id, id);
    // one whom a token opened comes with its pass
    if (visitor && visitor.token === null) return visitor.id;
  }
  return undefined;
}

/** The header that has a browser keep who its visitor is, for this app alone. */
export function visitorCookie(
  { signer }: HasSigner,
  { slug }: Pick<StoredApp, "slug">,
  visitor: string,
): Record<string, string> {
  return { "set-cookie": written(slug, signer.sign(visitor), year) };
}

/** The header that has a browser forget it. */
export function forgottenCookie({ slug }: Pick<StoredApp, "slug">): Record<string, string> {
  return { "set-cookie": written(slug, "", 0) };
}

/** A cookie for the calls of one app, which no script reads. @param seconds that it lasts */
function written(slug: string, value: string, seconds: number): string {
  const to = { path: `/api/apps/${slug}`, maxAge: seconds, httpOnly: true, sameSite: "lax" } as const;
  return stringifySetCookie({ name: cookieName, value, ...to });
}
