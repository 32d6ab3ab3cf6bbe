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
  const cookies = (request.headers.get("cookie") ?? "").split(/;\s*/);
  for (const cookie of cookies) {
    if (!cookie.startsWith(`${cookieName}=`)) continue;
    const id = signer.open(plain(cookie.slice(cookieName.length + 1)));
    const visitor = id === undefined ? undefined : visitors.byId(app.id, id);
    // one whom a token opened comes with its pass
    if (visitor && visitor.token === null) return visitor.id;
  }
  return undefined;
}

/** A cookie's value without its escapes; as it is where they are none. */
function plain(value: string): string {
  try {
    return decodeURIComponent(value);
  } catch {
    return value;
  }
}

/** The header that has a browser keep who its visitor is, for this app alone. */
export function visitorCookie(
  { signer }: HasSigner,
  { slug }: Pick<StoredApp, "slug">,
  visitor: string,
): Record<string, string> {
  const value = encodeURIComponent(signer.sign(visitor));
  return { "set-cookie": `${cookieName}=${value}; Path=/api/apps/${slug}; Max-Age=${year}; HttpOnly; SameSite=Lax` };
}

/** The header that has a browser forget it. */
export function forgottenCookie({ slug }: Pick<StoredApp, "slug">): Record<string, string> {
  return { "set-cookie": `${cookieName}=; Path=/api/apps/${slug}; Max-Age=0; HttpOnly; SameSite=Lax` };
}
