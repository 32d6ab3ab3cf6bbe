import type { BadgeOf } from "@/contract/visitors";
import type { StoredApp } from "../apps/app-store";
import type { HasSigner } from "../security/secret";

/**
 * What a call carries to show that it comes from a front end of ours: from the visitors' page of an app, from that page
 * in another site's frame, or from the terminal. It is signed, holds for one app and for ten minutes, and is given only
 * with the page, for another badge, or to who may call anyway. A header that merely says so is never believed.
 */
export interface Badge {
  of: BadgeOf;
  /** Epoch milliseconds. */
  until: number;
}

/** The header that carries it. */
export const badgeHeader = "finch-badge";

/** Milliseconds that one holds. */
const lasts = 10 * 60 * 1000;

/** A new badge of a front end of an app, as a header carries it. */
export function badgeFor(
  { signer }: HasSigner,
  app: Pick<StoredApp, "id">,
  of: BadgeOf,
  now: number,
): { badge: string; until: number } {
  const until = now + lasts;
  return { badge: signer.sign(`badge ${of} ${app.id} ${until}`), until };
}

/** The badge of an app in a text, its time over or not; undefined where we gave none like it. */
export function badgeIn({ signer }: HasSigner, app: Pick<StoredApp, "id">, text: string | null): Badge | undefined {
  const [kind, of, id, until] = (text === null ? undefined : signer.open(text))?.split(" ") ?? [];
  return kind === "badge" && id === app.id ? { of: of as BadgeOf, until: Number(until) } : undefined;
}
