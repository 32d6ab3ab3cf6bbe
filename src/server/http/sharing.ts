import { type Problem, statusOf } from "@/core/problem/problem";
import type { HasApps } from "../apps/app-store";
import type { HasCalls } from "../entrance/call-store";
import { foreignOrigin, refusePagesOf, seenOf } from "../entrance/caller";
import { doorOf } from "../entrance/door";
import type { HasLog } from "../ground/log";
import type { HasSigner } from "../security/secret";

/** What of the process is used here. */
export type SharingNeeds = HasApps & HasCalls & HasSigner & HasLog;

/** What a page of another origin may send, and what it may read, beside what any page may. */
const taken = "authorization, content-type, finch-client, finch-visitor, idempotency-key, last-event-id, prefer";
const given =
  "finch-call, finch-pass, finch-visitor, location, preference-applied, ratelimit, ratelimit-policy, retry-after, www-authenticate";
/** Seconds that a browser need not ask again. */
const lasts = 600;

/**
 * @param methods that there are at the address
 * @returns the headers by which a browser lets pages of an allowed origin call an app, and read what it answers
 *   (the CORS protocol of the Fetch standard); other origins get none
 */
export function sharedWith({ apps }: HasApps, slug: string, methods: string, request: Request): Record<string, string> {
  const vary = { vary: "Origin" };
  const origin = foreignOrigin(request, doorOf(request.headers));
  const app = origin === null ? undefined : apps.bySlug(slug);
  if (origin === null || !app?.access.origins.includes(origin)) return vary;
  const allowed = { "access-control-allow-origin": origin, "access-control-allow-credentials": "true" };
  if (request.method !== "OPTIONS") return { ...vary, ...allowed, "access-control-expose-headers": given };
  return {
    ...vary,
    ...allowed,
    "access-control-allow-methods": methods,
    "access-control-allow-headers": taken,
    "access-control-max-age": String(lasts),
  };
}

/** Refuses what a browser asks beforehand on behalf of a page that may not call. @throws {Refusal} `forbidden` */
export function refuseForeign({ apps }: HasApps, slug: string, request: Request): void {
  const origin = foreignOrigin(request, doorOf(request.headers));
  const app = origin === null ? undefined : apps.bySlug(slug);
  if (origin !== null && app && !app.access.origins.includes(origin)) refusePagesOf(origin, app);
}

/** Notes a call that was refused, where the developer of its app sees it. */
export function noteRefused(
  { apps, calls, log, signer }: SharingNeeds,
  slug: string,
  call: { path: string },
  request: Request,
  refused: Problem,
): void {
  const app = apps.bySlug(slug);
  if (!app) return;
  try {
    const seen = seenOf({ signer }, app, { ...call, method: request.method }, request);
    calls.add(seen, { status: statusOf(refused.kind), problem: refused, reply: null }, Date.now());
    log.info({ call: seen.id, app: slug, refused: refused.kind }, "call");
  } catch (error) {
    // it is refused all the same
    log.error({ error }, "a refused call could not be noted");
  }
}
