import { z } from "zod";
import { call, json, jsonBody, nothing, text } from "./call";

const openedSchema = z.object({
  visitor: z.string(),
  /** What the visitor calls with, as a bearer token. */
  pass: z.string(),
  /** Epoch milliseconds. */
  expiresAt: z.int(),
});

/** Visitors of an app: who opens them, and how one is forgotten. */
export const visitors = {
  open: call({
    method: "POST",
    path: "/api/apps/{slug}/visitors",
    by: "visitor",
    does: "Opens a visitor for some hours, for a front end that has a public token.",
    body: jsonBody(z.strictObject({})),
    answers: { 201: json(openedSchema) },
    problems: ["not-found", "unknown-caller", "over-limit"],
    example: { body: {} },
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
    does: "Forgets the caller: deletes all of its conversations for good.",
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller"],
  }),
};
