import { z } from "zod";
import { call, json, jsonBody, nothing } from "./call";

const name = z.string().trim().min(1).max(80);
const shown = z.object({
  /** The end of the line that is shown from here on. */
  tip: z.string(),
});

/** Whose memory alone is cleared; that of all where nothing is said. */
const clearedModel = z.object({ provider: z.string().max(200).optional(), model: z.string().max(200).optional() });

/** What the bench does with the tree of a conversation. */
export const branches = {
  show: call({
    method: "PUT",
    path: "/api/bench/messages/{id}/shown",
    by: "bench",
    does: "Shows the line through a message, which the next message then goes on from; in a visitor's conversation to the bench alone.",
    answers: { 200: json(shown) },
    problems: ["not-found"],
  }),
  name: call({
    method: "PUT",
    path: "/api/bench/messages/{id}/name",
    by: "bench",
    does: "Names the branch that begins with a message, or takes its name away.",
    body: jsonBody(z.strictObject({ name: name.nullable() })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/messages/{id}",
    by: "bench",
    does: "Deletes a branch or a take for good, with all that follows from it; there has to be another one beside it.",
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  write: call({
    method: "POST",
    path: "/api/bench/messages/{id}/takes",
    by: "bench",
    does: "Adds a take that is written by hand, or corrected: the reply to a visitor's message, marked as such.",
    body: jsonBody(
      z.strictObject({
        text: z
          .string()
          .max(1_000_000)
          .refine((text) => text.trim() !== "", "is empty; write some text"),
        /** The take that it puts right. */
        corrects: z.string().optional(),
      }),
    ),
    answers: { 200: json(z.object({ reply: z.string() })) },
    problems: ["not-found"],
  }),
  pin: call({
    method: "PUT",
    path: "/api/bench/messages/{id}/pin",
    by: "bench",
    does: "Pins the turn of a visitor's message: it is carried wherever it stands, in every line through it.",
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  unpin: call({
    method: "DELETE",
    path: "/api/bench/messages/{id}/pin",
    by: "bench",
    does: "Takes a pin away.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  clear: call({
    method: "PUT",
    path: "/api/bench/messages/{id}/clear",
    by: "bench",
    does: "Draws a line after a reply: nothing above it is carried, to any model or to one.",
    query: clearedModel,
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  unclear: call({
    method: "DELETE",
    path: "/api/bench/messages/{id}/clear",
    by: "bench",
    does: "Takes such a line away.",
    query: clearedModel,
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
