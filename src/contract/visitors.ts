import { z } from "zod";
import { call, json, jsonBody, nothing, text } from "./call";

const openedSchema = z
  .object({
    visitor: z.string(),
    /** What the visitor calls with, as a bearer token. */
    pass: z.string(),
    /** Epoch milliseconds. */
    expiresAt: z.int(),
  })
  .meta({ id: "OpenedVisitor" });

/** Front ends of ours that carry a badge: the visitors' page, the same in another site's frame, and the terminal. */
export const badgesOf = ["page", "frame", "terminal"] as const;
export type BadgeOf = (typeof badgesOf)[number];

const badgeSchema = z
  .object({
    badge: z.string(),
    /** Epoch milliseconds. */
    until: z.int(),
  })
  .meta({ id: "Badge" });

/** Visitors of an app: who opens them, and how one is forgotten. */
export const visitors = {
  open: call({
    method: "POST",
    path: "/api/apps/{slug}/visitors",
    by: "visitor",
    does: "Opens a visitor for some hours, for a front end that has a public token, or has one that it knows go on.",
    body: jsonBody(
      z.strictObject({
        /** The pass of a visitor whom a public token of this app opened: the same visitor gets a new one. */
        pass: z.string().max(300).optional(),
      }),
    ),
    answers: { 201: json(openedSchema) },
    problems: ["not-found", "unknown-caller", "over-limit"],
    example: { body: {} },
  }),
  badge: call({
    method: "POST",
    path: "/api/apps/{slug}/badges",
    by: "anyone",
    does: "Renews the badge by which the visitors' page or the terminal shows that it calls.",
    headers: ["finch-badge"],
    body: jsonBody(z.strictObject({ of: z.enum(badgesOf) })),
    answers: { 201: json(badgeSchema) },
    problems: ["not-found", "unknown-caller"],
    example: { body: { of: "terminal" } },
  }),
  style: call({
    method: "GET",
    path: "/api/apps/{slug}/style.css",
    by: "anyone",
    does: "Gives the developer's own style sheet for the visitors' page.",
    query: z.object({
      /** Another one for another text, so that no browser shows an old one. */
      v: z.string().max(40).optional(),
    }),
    answers: { 200: text("text/css") },
    problems: ["not-found"],
  }),
  forget: call({
    method: "DELETE",
    path: "/api/apps/{slug}/visitors/me",
    by: "visitor",
    does: "Forgets the caller, with all of its conversations and documents. 204 says that all of it is gone from every byte, 202 that this takes longer.",
    answers: { 204: nothing, 202: nothing },
    problems: ["not-found", "unknown-caller"],
  }),
};
