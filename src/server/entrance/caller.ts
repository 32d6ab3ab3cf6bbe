import type { Call } from "@/contract/call";
import { replies } from "@/contract/replies";
import { type BadgeOf, badgesOf } from "@/contract/visitors";
import type { Told } from "@/core/reply/told";
import { toldTo } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import type { HasConversations } from "../conversations/conversation-store";
import { refuse } from "../ground/refusal";
import type { HasSigner } from "../security/secret";
import type { Asker } from "./access";
import { badgeHeader, badgeIn } from "./badge";
import { callIdOf } from "./call-id";
import type { CallSeen } from "./call-store";
import { visitorInCookie } from "./cookie";
import { type Door, doorOf } from "./door";
import { identityIn, looksLikeIdentity } from "./identity";
import { looksLikePass, visitorInPass } from "./pass";
import { type LetIn, letInBy } from "./ticket";
import { type HasTokens, looksLikeToken } from "./token-store";
import type { HasVisitors, NewVisitor } from "./visitor-store";

/** What of the process is used here. */
export type CallerNeeds = HasConversations & HasVisitors & HasTokens & HasSigner;

/** Names the visitor, and the front end that calls. */
const nameHeader = "Finch-Visitor";
const clientHeader = "Finch-Client";
const longestName = 100;

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
  /** Labels of documents that a site signed for it. */
  labels: readonly string[];
  /** The public token that it called with, which is good for nothing but opening a visitor. */
  publicToken: string | undefined;
  /** The token under which it calls; what it reads ends when that is revoked. */
  token: string | undefined;
  /** Who it is to an idempotency key; null for one without an identity, to whom a key is worth nothing. */
  key: string | null;
  /** The front end of ours that shows by a badge that it calls. */
  badge: BadgeOf | undefined;
  /** What it is told of a reply beside its words. */
  told: Told;
  seen: CallSeen;
}

/** Whoever calls, as one who owns nothing where the call does not say. */
export function askerOf({ visitor }: Caller): Extract<Asker, { kind: "visitor" }> {
  return { kind: "visitor", visitor: visitor ?? "" };
}

/** What can be told of a call before it is known whether it may be made. */
export function seenOf(
  home: HasSigner,
  app: StoredApp,
  call: { method: string; path: string },
  request: Request,
): CallSeen {
  const door = doorOf(request.headers);
  const badge = badgeIn(home, app, request.headers.get(badgeHeader));
  return {
    id: callIdOf(request),
    app: app.id,
    method: call.method,
    path: new URL(request.url).pathname,
    origin: badge === undefined ? "http" : badge.of === "terminal" ? "terminal" : "page",
    client: badge === undefined ? wordIn(request, clientHeader) : null,
    shape: call.path.includes("/v1/") ? "common" : "own",
    visitor: wordIn(request, nameHeader),
    webOrigin: foreignOrigin(request, door),
    address: door.address,
  };
}

/**
 * Who calls an app, in this order: a ticket for one reply; a token, with the visitor that it names, an identity that a
 * site signed, or a visitor's pass; on this machine, and from no other's page, the visitor that a header names; the
 * cookie. Where callers need a token, who calls without one needs a badge of the open page.
 * @throws {Refusal} `bad-request`, `forbidden` or `unknown-caller` where one may not call
 */
export async function callerOf(
  home: CallerNeeds,
  app: StoredApp,
  call: Pick<Call, "method" | "path">,
  request: Request,
): Promise<Caller> {
  const { access } = app;
  const door = doorOf(request.headers);
  const seen = seenOf(home, app, call, request);
  refuseNames(request);
  if (seen.webOrigin !== null && !access.origins.includes(seen.webOrigin)) refusePagesOf(seen.webOrigin, app);
  const badge = goodBadge(home, app, request);
  const isOfPage = (badge === "page" || badge === "frame") && seen.webOrigin === null;
  if (isOfPage && !access.page)
    refuse("forbidden", `The page of ${app.name} is closed.`, {
      advice: "Whoever runs this app can open it in Serve.",
    });
  if (access.callers === "nobody" && !isOfPage)
    refuse("forbidden", `${app.name} takes no calls: it is switched off.`, {
      advice: "Whoever runs this app can open it in Serve.",
    });
  const isTrusted = door.isHere && access.callers === "machine";
  const caller = {
    app,
    seen,
    badge,
    told: toldTo(isOfPage ? "page" : "endpoints", access, app.look),
    publicToken: undefined,
    token: undefined,
    labels: [],
    mayName: isTrusted && seen.webOrigin === null,
  };
  const ticketed = ticketedReply(home, call, request);
  if (ticketed) {
    const visitor = home.conversations.conversationOf(ticketed.reply)?.visitor ?? undefined;
    const told = toldTo(ticketed.by, access, app.look);
    return { ...caller, by: "pass", token: ticketed.token, visitor, fresh: {}, key: null, told };
  }
  const mayBrowse = isTrusted || isOfPage;
  const bearer = bearerOf(request);
  if (bearer !== undefined) {
    const known = await knownBy(home, app, bearer, seen, mayBrowse);
    if (known) return { ...caller, ...known };
    // programs of the shape that most servers share send some key in any case
    if (!isTrusted) refuseUnknown(`The token is none of ${app.name}, or was revoked.`, "Make another in Serve.");
  }
  const name = seen.visitor;
  if (name !== null && caller.mayName) return { ...caller, by: "name", ...visitorNamed(home, app, name) };
  if (name !== null)
    refuseUnknown(`${app.name} takes Finch-Visitor from here only with a token.`, "Send a server token beside it.");
  if (!mayBrowse)
    refuseUnknown(`${app.name} answers only callers with a token.`, "Make a token in Serve, and send it.");
  const visitor = visitorInCookie(home, app, request);
  return { ...caller, by: "browser", visitor, fresh: {}, key: visitor ?? null };
}

/** @throws {Refusal} `bad-request` where a header names something that it can't */
function refuseNames(request: Request): void {
  for (const header of [nameHeader, clientHeader])
    if (request.headers.get(header)?.trim() && wordIn(request, header) === null)
      refuse("bad-request", `${header} is no name of up to ${longestName} letters of ASCII.`, {
        advice: `Send a short name, such as ${header}: ada.`,
      });
  const client = wordIn(request, clientHeader)?.toLowerCase();
  if (badgesOf.some((own) => own === client))
    refuse("bad-request", `${clientHeader}: ${client} is a name of ours, and none that a caller gives itself.`, {
      advice: `Send another name, such as ${clientHeader}: timetable-board, or leave the header out.`,
    });
}

/** The front end of ours whose badge a call carries. @throws {Refusal} `unknown-caller` where it carries one that is not good */
function goodBadge(home: HasSigner, app: StoredApp, request: Request): BadgeOf | undefined {
  const text = request.headers.get(badgeHeader);
  if (text === null) return undefined;
  const badge = badgeIn(home, app, text);
  if (badge && badge.until > Date.now()) return badge.of;
  refuseUnknown(
    badge ? "The badge of the page is over." : "The badge is none that was given here.",
    "Open the page anew.",
  );
}

/** The one reply that the ticket of a call lets read, where it has one. @throws {Refusal} where it lets in no more */
function ticketedReply(
  home: HasTokens & HasSigner,
  call: Pick<Call, "method" | "path">,
  request: Request,
): ({ reply: string } & LetIn) | undefined {
  const { searchParams, pathname } = new URL(request.url);
  const ticket = searchParams.get("ticket");
  if (ticket === null || call.path !== replies.read.path) return undefined;
  const reply = pathname.split("/").at(-1) ?? "";
  const letIn = letInBy(home, ticket, reply, Date.now());
  if (letIn) return { reply, ...letIn };
  refuseUnknown("The ticket is over, or is one for another reply.", "Ask once more, or say who calls by a header.");
}

type Known = Pick<Caller, "by" | "visitor" | "fresh" | "key" | "token" | "publicToken" | "mayName"> &
  Partial<Pick<Caller, "labels">>;

/**
 * Whom a bearer token makes known; undefined where it is nothing of ours.
 * @param mayBrowse whether one may call without a token
 * @throws {Refusal} `unknown-caller` where it is ours, and not good
 */
async function knownBy(
  home: HasVisitors & HasTokens & HasSigner,
  app: StoredApp,
  bearer: string,
  { visitor: name }: CallSeen,
  mayBrowse: boolean,
): Promise<Known | undefined> {
  const now = Date.now();
  if (looksLikePass(bearer)) return withPass(home, app, bearer, mayBrowse, now);
  const sites = looksLikeIdentity(bearer) ? home.tokens.sitesOf(app.id) : [];
  if (sites.length > 0) {
    const identity = await identityIn(bearer, sites, now);
    home.tokens.useSite(identity.site, now);
    const visitor = visitorNamed(home, app, identity.name);
    const { site: token, labels } = identity;
    return { by: "pass", token, labels, publicToken: undefined, mayName: false, ...visitor };
  }
  if (!looksLikeToken(bearer)) return undefined;
  const token = home.tokens.use(app.id, bearer, now);
  if (!token) refuseUnknown(`The token is none of ${app.name}, or was revoked.`, "Make another in Serve.");
  const by = { by: "token", token: token.id } as const;
  const nameless = { ...by, visitor: undefined, fresh: {}, key: `token ${token.id}` };
  if (token.kind === "public") return { ...nameless, publicToken: token.id, mayName: false };
  const server = { publicToken: undefined, mayName: true };
  return name === null ? { ...nameless, ...server } : { ...by, ...visitorNamed(home, app, name), ...server };
}

/** The visitor whose pass it is. One whom no token opened may call where one may without a token, and nowhere else. */
function withPass(
  home: HasVisitors & HasTokens & HasSigner,
  app: StoredApp,
  bearer: string,
  mayBrowse: boolean,
  now: number,
): Known {
  const visitor = visitorInPass(home, app.id, bearer);
  if (!visitor) refuseUnknown("The visitor's pass was never given.", "Call without one, or open a visitor.");
  const { id, token, expiresAt } = visitor;
  if (token === null && !mayBrowse)
    refuseUnknown(`${app.name} answers only callers with a token.`, "Make a token in Serve, and send it.");
  if (token !== null && !home.tokens.isGood(token))
    refuseUnknown("The token that opened this visitor was revoked.", "Open a visitor with a public token.");
  if (token !== null && (expiresAt ?? 0) <= now)
    refuseUnknown(
      "The visitor's pass is over.",
      "Renew it: send it as `pass` with POST …/visitors, and the public token.",
    );
  return {
    by: "pass",
    token: token ?? undefined,
    visitor: id,
    fresh: {},
    key: id,
    publicToken: undefined,
    mayName: false,
  };
}

function visitorNamed(home: HasVisitors, app: StoredApp, name: string): Pick<Known, "visitor" | "fresh" | "key"> {
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
