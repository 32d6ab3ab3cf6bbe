import type { visitors } from "@/contract/visitors";
import { deleteConversation } from "../conversations/delete";
import { refuse } from "../refusal";
import { forgottenCookie, passFor, passLasts, takeFromLimits } from "./caller";
import { Answered, type Handle } from "./serve";

/** Opens a visitor for a front end with a public token. */
export const openVisitor: Handle<typeof visitors.open> = (home, { caller }) => {
  const { app, publicToken } = caller;
  if (publicToken === undefined)
    refuse("unknown-caller", "Only a public token opens visitors.", {
      advice: "Who has a server token, or is on this machine, names visitors with Finch-Visitor.",
    });
  const now = Date.now();
  takeFromLimits(home, caller, now);
  const expiresAt = now + passLasts;
  const visitor = home.visitors.add(app.id, { token: publicToken, expiresAt }, now);
  return { visitor, pass: passFor(home, visitor), expiresAt };
};

/** Deletes all that the caller ever said, whatever is under way. */
export const forgetVisitor: Handle<typeof visitors.forget> = async (home, { caller }) => {
  const { app, visitor, by } = caller;
  if (visitor !== undefined) {
    const all = home.conversations.idsOfVisitor(visitor);
    await Promise.all(all.map((id) => deleteConversation(home, id, "for good")));
  }
  return new Answered(204, undefined, by === "browser" ? forgottenCookie(app) : {});
};
