import type { HasSigner } from "../security/secret";
import type { HasVisitors, StoredVisitor } from "./visitor-store";

/**
 * What a visitor calls with that no cookie can name: one whom a public token opened, or one on a page of another site.
 * It is a bearer token, and says no more than which visitor it is: how long it holds is stored with that visitor.
 */
const beginning = "finch_pass_";

/** The header that gives one to a page of another site, with the first answer to a visitor. */
export const passHeader = "finch-pass";

/** Milliseconds that the pass of a visitor holds whom a public token opened; it can be renewed, before its end and after. */
export const passLasts = 12 * 60 * 60 * 1000;

export function passFor({ signer }: HasSigner, visitor: string): string {
  return beginning + signer.sign(visitor);
}

export function looksLikePass(text: string): boolean {
  return text.startsWith(beginning);
}

/** The visitor of an app whose pass a text is, its time over or not. */
export function visitorInPass(
  { signer, visitors }: HasVisitors & HasSigner,
  app: string,
  text: string,
): StoredVisitor | undefined {
  const id = looksLikePass(text) ? signer.open(text.slice(beginning.length)) : undefined;
  return id === undefined ? undefined : visitors.byId(app, id);
}
