import Negotiator from "negotiator";

/**
 * The media type of those that there are which a caller wants most (RFC 9110, 12.5.1): by quality, then by how exactly
 * it is named, then by the order in which they are given. The first, which is the usual one, where the caller wants
 * none of them or does not say.
 */
export function preferredOf(request: Request, types: readonly [string, ...string[]]): string {
  // types are the same in either case (RFC 9110, 8.3.1), and all that is said here is in UTF-8
  const accept = request.headers
    .get("accept")
    ?.toLowerCase()
    .replace(/;\s*charset="?utf-8"?/g, "");
  return new Negotiator({ headers: { accept } }).mediaType([...types]) ?? types[0];
}
