import { Failed, kindOf } from "./failed";
import type { Failure, TalkOptions } from "./types";

/** Milliseconds after which a badge is renewed; it holds for ten minutes. */
const badgeAge = 9 * 60_000;
/** Kinds of failure that say that one may not call. */
const refusals = ["forbidden", "unknown-caller", "refused-origin"];
export const isJson = { "content-type": "application/json" };

/** Calls an app as whoever this is. */
export interface Caller {
  /**
   * Calls an endpoint; what says who calls is made anew once where it is over.
   * @throws {Failed} where it does not answer, or refuses
   */
  call(path: string, init?: RequestInit): Promise<Response>;
  /** Lets go of the pass, and so of the visitor. */
  forgetPass(): void;
}

/**
 * The caller of an app: it shows who it is by a token, a pass that it keeps, or a badge, and renews what is over.
 * @param tellRefused is told after each call whether one may not call
 */
export function callerOf(options: TalkOptions, tellRefused: (isRefused: boolean) => void): Caller {
  const { app, client, visitor, keep } = options;
  const kept = `finch pass ${app}`;
  let pass = keep?.getItem(kept) ?? undefined;
  /** Whether the pass has to be renewed before it is good again. */
  let isPassOver = false;
  let bearer: string | undefined;
  let badge = options.badge?.badge;
  // the page comes with the badge of a page, and trades it for that of a frame
  let badgeUntil =
    options.badge?.of === "page" ? Math.min((options.badge.until ?? 0) - 60_000, Date.now() + badgeAge) : 0;
  let hasAnswered = false;

  function keepPass(given: string | undefined): void {
    pass = given;
    isPassOver = false;
    if (given === undefined) keep?.removeItem(kept);
    else keep?.setItem(kept, given);
  }

  /** The headers that say who calls. */
  async function identity(): Promise<Record<string, string>> {
    const named: Record<string, string> = { ...options.headers };
    if (client) named["finch-client"] = client;
    if (visitor) named["finch-visitor"] = visitor;
    bearer ??= typeof options.token === "function" ? await options.token() : options.token;
    if (bearer?.startsWith("finch_public_") && (!pass || isPassOver)) await openVisitor(named, bearer);
    const shown = bearer && !bearer.startsWith("finch_public_") ? bearer : pass;
    if (shown) named.authorization = `Bearer ${shown}`;
    if (options.badge) named["finch-badge"] = await badgeNow(named);
    return named;
  }

  /** Has the visitor of a public token go on, or opens one. */
  async function openVisitor(named: Record<string, string>, token: string): Promise<void> {
    const open = (body: object) =>
      send("visitors", {
        method: "POST",
        body: JSON.stringify(body),
        headers: { ...named, ...isJson, authorization: `Bearer ${token}` },
      });
    const opened = pass
      ? await open({ pass }).catch((error) => {
          if (kindOf(error) !== "unknown-caller") throw error;
          return open({});
        })
      : await open({});
    keepPass(((await opened.json()) as { pass: string }).pass);
  }

  /** The badge of a front end of ours, renewed before its end. */
  async function badgeNow(named: Record<string, string>): Promise<string> {
    if (badge && Date.now() < badgeUntil) return badge;
    const shown: Record<string, string> = badge ? { "finch-badge": badge } : {};
    const headers = { ...named, ...isJson, ...shown };
    const given = await send("badges", { method: "POST", body: JSON.stringify({ of: options.badge?.of }), headers });
    badge = ((await given.json()) as { badge: string }).badge;
    badgeUntil = Date.now() + badgeAge;
    return badge;
  }

  /** Has what says who calls made anew, where it can be. @returns whether another try makes sense */
  function renew(): boolean {
    const canRenew = options.badge !== undefined || typeof options.token === "function" || pass !== undefined;
    badgeUntil = 0;
    if (typeof options.token === "function") bearer = undefined;
    if (bearer?.startsWith("finch_public_")) isPassOver = true;
    else if (pass) keepPass(undefined);
    return canRenew;
  }

  async function send(path: string, init: RequestInit): Promise<Response> {
    let response: Response;
    try {
      response = await fetch(`${app}/${path}`, { credentials: "include", ...init });
    } catch (error) {
      if (init.signal?.aborted) throw error;
      throw new Failed(await silence());
    }
    hasAnswered = true;
    const given = response.headers.get("finch-pass");
    if (given) keepPass(given);
    if (response.ok) return response;
    const unreadable = { kind: "internal", detail: `The answer has status ${response.status}.`, advice: "Try again." };
    throw new Failed(((await response.json().catch(() => undefined)) as Failure) ?? unreadable);
  }

  /** Why nothing answered. Of a refused origin a browser says no more than of a dead network: so the app is looked for. */
  async function silence(): Promise<Failure> {
    const own = globalThis.location?.origin;
    const isElsewhere = own !== undefined && new URL(app, globalThis.location.href).origin !== own;
    const isThere = isElsewhere && !hasAnswered && (await isAnswering(`${app}/openapi.json`));
    return isThere
      ? {
          kind: "refused-origin",
          detail: `Pages of ${own} may not call this app.`,
          advice: "Whoever runs the app can allow this origin in Serve.",
        }
      : { kind: "offline", detail: "Nothing answers.", advice: "Look at the connection, then try again." };
  }

  /** A call as whoever this is; what says so is made anew once where it is over. */
  async function call(path: string, init: RequestInit = {}, isSecond = false): Promise<Response> {
    try {
      const response = await send(path, { ...init, headers: { ...init.headers, ...(await identity()) } });
      tellRefused(false);
      return response;
    } catch (error) {
      if (kindOf(error) === "unknown-caller" && !isSecond && renew()) return call(path, init, true);
      if (refusals.includes(kindOf(error))) tellRefused(true);
      throw error;
    }
  }

  return { call: (path, init) => call(path, init), forgetPass: () => keepPass(undefined) };
}

/** Whether something answers at an address, whatever that is. */
function isAnswering(address: string): Promise<boolean> {
  return fetch(address, { mode: "no-cors" }).then(
    () => true,
    () => false,
  );
}
