import { z } from "zod";
import { longestSummary } from "@/core/context/sum-up";
import { summarySchema } from "@/core/context/summary";
import { problemSchema } from "@/core/problem/problem";
import { candidateSchema } from "@/core/reply/events";
import { call, jsonBody, nothing } from "./call";

/** A summary of older turns as the bench gets it. */
export const benchSummarySchema = summarySchema.extend({
  text: z.string(),
  /** What stands for the model that was to make it, and for its prompt. */
  recipe: z.string(),
  /** Whether the developer put it right. */
  isCorrected: z.boolean(),
  /** Whether it ended at the output limit. */
  isCut: z.boolean(),
  /** Who made it. */
  maker: candidateSchema,
  /** What that cost; null where nothing was counted. */
  price: z.object({ amount: z.number(), currency: z.string() }).nullable(),
  /** Epoch milliseconds. */
  at: z.int(),
});
export type BenchSummary = z.infer<typeof benchSummarySchema>;

/** How far the next summary of a conversation is. */
export const summarisingSchema = z.discriminatedUnion("state", [
  /** It is being made, of the turns up to one. */
  z.object({ state: z.literal("making"), turn: z.int() }),
  z.object({ state: z.literal("failed"), problem: problemSchema }),
]);
export type SummarisingState = z.infer<typeof summarisingSchema>;

/** What the bench does with the summaries of a conversation. */
export const summaries = {
  make: call({
    method: "POST",
    path: "/api/bench/conversations/{id}/summaries",
    by: "bench",
    does: "Has the older turns of a conversation's line summed up anew, as the draft says; what comes of it shows in the line.",
    answers: { 202: nothing },
    problems: ["not-found", "conflict"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/conversations/{id}/summaries/stop",
    by: "bench",
    does: "Ends the summary of a conversation that is being made.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  correct: call({
    method: "PUT",
    path: "/api/bench/summaries/{id}",
    by: "bench",
    does: "Puts the words of a summary right.",
    body: jsonBody(
      z.strictObject({
        text: z
          .string()
          .max(longestSummary)
          .refine((text) => text.trim() !== "", "is empty; write some text"),
      }),
    ),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
