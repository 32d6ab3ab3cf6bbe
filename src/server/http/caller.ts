import type { Call } from "@/contract/call";
import { replies } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import type { Access } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import type { Asker } from "../conversations/access";
import type { Home } from "../home";
import { Refusal, refuse } from "../refusal";
import type { CallSeen } from "../visitors/call-store";
import { looksLikeToken } from "../visitors/token-store";
import type { NewVisitor } from "../visitors/visitor-store";
import { type Door, doorOf } from "./door";
import { letInBy } from "./ticket";

/** Names the visitor, and the front end that calls. */
const nameHeader = "Finch-Visitor";
const clientHeader = "Finch-Client";
const framed = "frame";
const longestName = 100;
const cookieName = "finch_visitor";
const year = 365 * 24 * 60 * 60;
/** Milliseconds that a visitor lasts whom a public token opened. */
export const passLasts = 12 * 60 * 60 * 1000;
const passBeginning = "finch_pass_";

/** Who calls an app, as far as the call tells. */
export interface Caller {
  app: StoredApp;
  /** The visitor that it is; undefined for one who is not known yet. */
  visitor: string | undefined;
  /** What is to be known of the visitor, where it is made by this call. */
  fresh: NewVisitor;
  /** How it said who it is. Only a `browser` is given a cookie. */
  by: "token" | "name" | "pass" | "browser";
  /** Whether it may say who it is by a name alone, in the body too. */
  mayName: boolean;
  /** The public token that it called with, which is good for nothing but opening a visitor. */
  publicToken: string | undefined;
  /** The token under which it calls; what it reads ends when that is revoked. */
  token: string | undefined;
  /** Who it is to an idempotency key; null for one without an identity, to whom a key is worth nothing. */
  key: string | null;
  seen: CallSeen;
}

/** Whoever calls, as one who owns nothing where the call does not say. */
export function askerOf({ visitor }: Caller): Extract<Asker, { kind: "visitor" }> {
  return { kind: "visitor", visitor: visitor ?? "" };
}

/** What can be told of a call before it is known whether it may be made. */
export function seenOf(app: StoredApp, call: { method: string; path: string }, request: Request): CallSeen {
  const door = doorOf(request.headers);
  const client = wordIn(request, clientHeader);
  // the page says whether another site shows it in a frame
  const own = client === framed ? "page" : client === "page" || client === "terminal" ? client : undefined;
  return {
    app: app.id,
    method: call.method,
    path: new URL(request.url).pathname,
    origin: own ?? "http",
    client: own && client !== framed ? null : client,
    shape: call.path.includes("/v1/") ? "common" : "own",
    visitor: wordIn(request, nameHeader),
    webOrigin: foreignOrigin(request, door),
    address: door.address,
  };
}

/**
 * Who calls an app, in this order: a token, with the visitor that it names; on this machine, and from no other's
 * page, the visitor that a header names; the page's signed cookie.
 * @throws {Refusal} `forbidden` or `unknown-caller` where one may not call
 */
export function callerOf(home: Home, app: StoredApp, call: Pick<Call, "method" | "path">, request: Request): Caller {
  const { access } = app;
  const door = doorOf(request.headers);
  const seen = seenOf(app, call, request);
  for (const header of [nameHeader, clientHeader])
    if (request.headers.get(header)?.trim() && wordIn(request, header) === null)
      refuse("bad-request", `${header} is no name of up to ${longestName} letters of ASCII.`, {
        advice: `Send a short name, such as ${header}: ada.`,
      });
  if (seen.webOrigin !== null && !access.origins.includes(seen.webOrigin)) refusePagesOf(seen.webOrigin, app);
  if (access.callers === "nobody" && !(seen.origin === "page" && access.page))
    refuse("forbidden", `${app.name} takes no calls: it is switched off.`, {
      advice: "Whoever runs this app can open it in Serve.",
    });
  const isTrusted = door.isHere && access.callers === "machine";
  const caller = { app, seen, publicToken: undefined, token: undefined, mayName: isTrusted && seen.webOrigin === null };
  const ticketed = ticketedReply(home, call, request);
  if (ticketed) {
    const visitor = home.conversations.conversationOf(ticketed.reply)?.visitor ?? undefined;
    return { ...caller, by: "pass", token: ticketed.token, visitor, fresh: {}, key: null };
  }
  const bearer = bearerOf(request);
  const isOurs = bearer !== undefined && (looksLikeToken(bearer) || bearer.startsWith(passBeginning));
  // programs of the shape that most servers share send some key in any case
  if (bearer !== undefined && (isOurs || !isTrusted)) return { ...caller, ...withBearer(home, app, bearer, seen) };
  const name = seen.visitor;
  if (name !== null && caller.mayName) return { ...caller, by: "name", ...visitorNamed(home, app, name) };
  if (name !== null)
    refuseUnknown(`${app.name} takes Finch-Visitor from here only with a token.`, "Send a server token beside it.");
  const visitor = visitorInCookie(home, app, request);
  // who was on the page is known by its cookie, for as long as the page is open
  const isOfPage = access.page && (visitor !== undefined || (seen.origin === "page" && seen.webOrigin === null));
  if (!isTrusted && !isOfPage)
    refuseUnknown(`${app.name} answers only callers with a token.`, "Make a token in Serve, and send it.");
  return { ...caller, by: "browser", visitor, fresh: {}, key: visitor ?? null };
}

/** The limits of an app on one caller. @throws {Refusal} `over-limit`, with the seconds to wait */
export function takeFromLimits({ limits }: Home, { app, seen, ...caller }: Caller, now: number, takes = 1): void {
  const { visitor, address, app: all }: Access["limits"] = app.access.limits;
  const who = caller.fresh.name ?? caller.visitor;
  const over = limits.take(
    [
      { who: `${app.id} app`, aMinute: all },
      { who: `${app.id} at ${seen.address}`, aMinute: address },
      ...(who ? [{ who: `${app.id} is ${who}`, aMinute: visitor }] : []),
    ],
    now,
    takes,
  );
  if (!over) return;
  const problem: Problem = {
    kind: "over-limit",
    detail: `${app.name} takes ${over.limit.aMinute} calls a minute ${over.limit.who.endsWith(" app") ? "in all" : "of one caller"}.`,
    advice: `Wait ${over.seconds} s.`,
    retryAfter: over.seconds,
  };
  throw new Refusal(problem);
}

/** The one reply that the ticket of a call lets read, where it has one. @throws {Refusal} where it lets in no more */
function ticketedReply(
  home: Home,
  call: Pick<Call, "method" | "path">,
  request: Request,
): { reply: string; token: string | undefined } | undefined {
  const { searchParams, pathname } = new URL(request.url);
  const ticket = searchParams.get("ticket");
  if (ticket === null || call.path !== replies.read.path) return undefined;
  const reply = pathname.split("/").at(-1) ?? "";
  const by = letInBy(home, ticket, reply, Date.now());
  if (by) return { reply, ...by };
  refuseUnknown("The ticket is over, or is one for another reply.", "Ask once more, or say who calls by a header.");
}

type Known = Pick<Caller, "by" | "visitor" | "fresh" | "key" | "token" | "publicToken" | "mayName">;

function withBearer(home: Home, app: StoredApp, bearer: string, { visitor: name }: CallSeen): Known {
  const now = Date.now();
  if (bearer.startsWith(passBeginning)) {
    const visitor = home.visitors.byId(app.id, home.signer.open(bearer.slice(passBeginning.length)) ?? "");
    const isGood = visitor?.token && home.tokens.isGood(visitor.token) && (visitor.expiresAt ?? 0) > now;
    if (!isGood)
      refuseUnknown("The visitor's pass is over, or was never given.", "Open a visitor with a public token.");
    const token = visitor.token ?? undefined;
    return {
      by: "pass",
      token,
      visitor: visitor.id,
      fresh: {},
      key: visitor.id,
      publicToken: undefined,
      mayName: false,
    };
  }
  const token = home.tokens.use(app.id, bearer, now);
  if (!token) refuseUnknown(`The token is none of ${app.name}, or was revoked.`, "Make another in Serve.");
  const by = { by: "token", token: token.id } as const;
  const nameless = { ...by, visitor: undefined, fresh: {}, key: `token ${token.id}` };
  if (token.kind === "public") return { ...nameless, publicToken: token.id, mayName: false };
  const server = { publicToken: undefined, mayName: true };
  return name === null ? { ...nameless, ...server } : { ...by, ...visitorNamed(home, app, name), ...server };
}

function visitorNamed(home: Home, app: StoredApp, name: string): Pick<Known, "visitor" | "fresh" | "key"> {
  const known = home.visitors.named(app.id, name);
  return { visitor: known?.id, fresh: { name }, key: known?.id ?? `name ${name}` };
}

/** @throws {Refusal} `forbidden` */
export function refusePagesOf(origin: string, { name }: StoredApp): never {
  refuse("forbidden", `Pages of ${origin} may not call ${name}.`, {
    advice: "Whoever runs this app can allow them in Serve.",
  });
}

function refuseUnknown(detail: string, advice: string): never {
  refuse("unknown-caller", detail, { advice });
}

/** What a visitor calls with whom a public token opened. */
export function passFor({ signer }: Home, visitor: string): string {
  return passBeginning + signer.sign(visitor);
}

function bearerOf(request: Request): string | undefined {
  return /^Bearer +(\S+)$/i.exec(request.headers.get("authorization") ?? "")?.[1];
}

/** The name in a header; null where there is none, or none that is one. */
function wordIn(request: Request, header: string): string | null {
  const given = request.headers.get(header)?.trim();
  return given && given.length <= longestName && /^[\x20-\x7e]+$/.test(given) ? given : null;
}

/** The origin of a page that is not ours; null for all other calls. */
export function foreignOrigin(request: Request, door: Door): string | null {
  const origin = request.headers.get("origin");
  return origin === null || origin === door.origin ? null : origin.slice(0, 300);
}

function visitorInCookie({ signer, visitors }: Home, app: StoredApp, request: Request): string | undefined {
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

/**
 * The header that has a browser keep who its visitor is, for this app alone. In a frame of another site a browser
 * keeps only a cookie that is partitioned by that site (CHIPS).
 */
export function visitorCookie(
  { signer }: Home,
  { slug }: StoredApp,
  visitor: string,
  client: string | null = null,
): Record<string, string> {
  const value = encodeURIComponent(signer.sign(visitor));
  const sites = client === framed ? "SameSite=None; Secure; Partitioned" : "SameSite=Lax";
  return { "set-cookie": `${cookieName}=${value}; Path=/api/apps/${slug}; Max-Age=${year}; HttpOnly; ${sites}` };
}

/** The header that has a browser forget it. */
export function forgottenCookie({ slug }: StoredApp): Record<string, string> {
  return { "set-cookie": `${cookieName}=; Path=/api/apps/${slug}; Max-Age=0; HttpOnly; SameSite=Lax` };
}
