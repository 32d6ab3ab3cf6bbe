import { z } from "zod";
import { ratings } from "@/core/conversation/rating";
import { call, jsonBody, nothing } from "./call";

const rating = jsonBody(
  z
    .strictObject({
      /** Null takes the mark away. */
      rating: z.enum(ratings).nullable(),
    })
    .meta({ id: "Rated" }),
);

/** What the developer writes on conversations and replies. */
export const benchMarks = {
  write: call({
    method: "PATCH",
    path: "/api/bench/conversations/{id}",
    by: "bench",
    does: "Writes on a conversation: its title, a note, its tags; what is left out stays.",
    body: jsonBody(
      z.strictObject({
        /** Null for the beginning of the first message. */
        title: z.string().trim().min(1).max(160).nullable().optional(),
        note: z.string().max(20_000).optional(),
        tags: z.array(z.string().trim().min(1).max(40)).max(20).optional(),
      }),
    ),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  rate: call({
    method: "PUT",
    path: "/api/bench/messages/{id}/rating",
    by: "bench",
    does: "Marks a reply as good or bad.",
    body: rating,
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};

/** What callers of an app may mark. */
export const marks = {
  rate: call({
    method: "PUT",
    path: "/api/apps/{slug}/replies/{id}/rating",
    by: "visitor",
    does: "Marks a reply of one's own as good or bad, for whoever runs the app.",
    body: rating,
    answers: { 204: nothing },
    problems: ["not-found", "unknown-caller"],
    example: { body: { rating: "good" } },
  }),
};
