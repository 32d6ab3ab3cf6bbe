import { visitors } from "@/contract/visitors";
import { appAt } from "../apps/app";
import { badgeFor, badgeHeader, badgeIn } from "../entrance/badge";
import { callerOf, foreignOrigin, refusePagesOf } from "../entrance/caller";
import { forgottenCookie } from "../entrance/cookie";
import { doorOf } from "../entrance/door";
import type { HasLimits } from "../entrance/limits";
import { passFor, passLasts, visitorInPass } from "../entrance/pass";
import { takeFromLimits } from "../entrance/rate";
import type { HasTokens } from "../entrance/token-store";
import type { HasVisitors } from "../entrance/visitor-store";
import { refuse } from "../ground/refusal";
import type { HasSigner } from "../security/secret";
import { type ForgettingNeeds, forgetVisitor } from "../tending/deleting";
import { isErased } from "./documents";
import { Answered, type Handle } from "./serve";

/** What of the process is used here. */
export type VisitorsNeeds = ForgettingNeeds & HasTokens & HasLimits & HasSigner;

/** Opens a visitor for a front end with a public token, or has the one go on whose pass it sends. */
export const openVisitor: Handle<typeof visitors.open, VisitorsNeeds> = (home, { caller, body }) => {
  const { app, publicToken } = caller;
  if (publicToken === undefined)
    refuse("unknown-caller", "Only a public token opens visitors.", {
      advice: "Who has a server token, or is on this machine, names visitors with Finch-Visitor.",
    });
  const now = Date.now();
  takeFromLimits(home, caller, now);
  const expiresAt = now + passLasts;
  const visitor = body.pass === undefined ? undefined : goingOn(home, app.id, body.pass, expiresAt);
  const opened = visitor ?? home.visitors.add(app.id, { token: publicToken, expiresAt }, now);
  return { visitor: opened, pass: passFor(home, opened), expiresAt };
};

/** The visitor of a pass, who now lasts longer. @throws {Refusal} `unknown-caller` where no token that is good opened it */
function goingOn(home: HasVisitors & HasTokens & HasSigner, app: string, pass: string, expiresAt: number): string {
  const visitor = visitorInPass(home, app, pass);
  if (!visitor?.token || !home.tokens.isGood(visitor.token))
    refuse("unknown-caller", "The pass is none of a visitor whom a public token opened that is still good.", {
      advice: "Leave `pass` out, which opens another visitor.",
    });
  home.visitors.extend(visitor.id, expiresAt);
  return visitor.id;
}

/**
 * Gives a front end of ours a new badge: the page for the one that it came with, whose time may be over, and the
 * terminal where it may call.
 */
export const giveBadge: Handle<typeof visitors.badge, VisitorsNeeds> = async (home, { slug, body, request }) => {
  const app = appAt(home, slug);
  const now = Date.now();
  if (body.of === "terminal") {
    await callerOf(home, app, visitors.badge, request);
    return badgeFor(home, app, "terminal", now);
  }
  const origin = foreignOrigin(request, doorOf(request.headers));
  if (origin !== null) refusePagesOf(origin, app);
  if (!app.access.page)
    refuse("forbidden", `The page of ${app.name} is closed.`, {
      advice: "Whoever runs this app can open it in Serve.",
    });
  const badge = badgeIn(home, app, request.headers.get(badgeHeader));
  if (badge?.of !== "page" && badge?.of !== "frame")
    refuse("unknown-caller", "A badge of the page is given with the page, or for another one.", {
      advice: "Open the page anew.",
    });
  return badgeFor(home, app, body.of, now);
};

/** Forgets all that the caller ever said or handed in, whatever is under way. */
export const forgetCaller: Handle<typeof visitors.forget, VisitorsNeeds> = async (home, { caller }) => {
  const { app, visitor, by } = caller;
  if (visitor !== undefined) {
    await forgetVisitor(home, visitor);
  }
  const isGone = visitor === undefined || (await isErased(home));
  return new Answered(isGone ? 204 : 202, undefined, by === "browser" ? forgottenCookie(app) : {});
};
