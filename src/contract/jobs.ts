import { z } from "zod";
import { jobStates, workSchema } from "@/core/jobs/work";
import { problemSchema } from "@/core/problem/problem";
import { call, json, jsonBody } from "./call";

export const jobSchema = z.object({
  id: z.string(),
  app: z.string(),
  work: workSchema,
  state: z.enum(jobStates),
  /** How much of how much is done. */
  done: z.int(),
  of: z.int(),
  /** What it cost so far, and what it may cost, in the currency of the bench; null for any price. */
  price: z.number(),
  mostPrice: z.number().nullable(),
  problem: problemSchema.nullable(),
  at: z.int(),
  updatedAt: z.int(),
});
export type Job = z.infer<typeof jobSchema>;

const oneJob = { 200: json(jobSchema) };

/** What saying a conversation again would take. */
const estimateSchema = z.object({
  messages: z.int(),
  /** Tokens in, by the replies that were given the first time. */
  input: z.int(),
  output: z.int(),
  /** What the summaries that it makes meanwhile would take; null where its memory carries none. */
  summaries: z.object({ count: z.int(), input: z.int(), output: z.int(), price: z.number() }).nullable(),
  /** Of all of it. */
  price: z.number(),
  currency: z.string(),
});
export type SayAgainEstimate = z.infer<typeof estimateSchema>;

/** Bytes of a file that are sent at once. */
export const largestPart = 4 * 1024 * 1024;
/** Bytes that a file may have. */
export const largestFile = 4 * 1024 * 1024 * 1024;

const which = z.strictObject({
  /** A message whose line is said again, instead of the one that is shown. */
  through: z.string().max(100).optional(),
});

/** Long work: what it is, how far it is, and how it is stopped. */
export const jobs = {
  list: call({
    method: "GET",
    path: "/api/bench/jobs",
    by: "bench",
    does: "Lists the latest jobs, those that run first.",
    answers: { 200: json(z.object({ jobs: z.array(jobSchema) })) },
  }),
  read: call({
    method: "GET",
    path: "/api/bench/jobs/{id}",
    by: "bench",
    does: "Says how far a job is.",
    answers: oneJob,
    problems: ["not-found"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/jobs/{id}/stop",
    by: "bench",
    does: "Stops a job, or forgets one that waits. An import leaves nothing behind.",
    answers: oneJob,
    problems: ["not-found"],
  }),
  estimate: call({
    method: "GET",
    path: "/api/bench/conversations/{id}/said-again",
    by: "bench",
    does: "Says what it would take to say a conversation again on the draft.",
    query: which,
    answers: { 200: json(estimateSchema) },
    problems: ["not-found", "misconfigured", "unknown-model"],
  }),
  sayAgain: call({
    method: "POST",
    path: "/api/bench/conversations/{id}/said-again",
    by: "bench",
    does: "Says the visitor's messages of a conversation again, one after another, on the draft.",
    body: jsonBody(which.extend({ /** What it may cost at most. */ mostPrice: z.number().min(0).max(1e9).optional() })),
    answers: oneJob,
    problems: ["not-found", "conflict", "misconfigured", "unknown-model"],
  }),
  beginImport: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/imports",
    by: "bench",
    does: "Begins an import; its file is then sent in parts.",
    body: jsonBody(
      z.strictObject({
        name: z.string().min(1).max(200),
        as: z.enum(["jsonl", "columns"]),
        bytes: z.int().min(0).max(largestFile),
      }),
    ),
    answers: oneJob,
    problems: ["not-found"],
  }),
  sendPart: call({
    method: "PUT",
    path: "/api/bench/jobs/{id}/parts",
    by: "bench",
    does: "Sends the next part of the file of an import, as its bytes; after the last one the file is checked.",
    query: z.object({
      /** Bytes that were sent before. */
      from: z.coerce.number().int().min(0),
    }),
    answers: oneJob,
    problems: ["not-found", "conflict"],
  }),
  store: call({
    method: "POST",
    path: "/api/bench/jobs/{id}/store",
    by: "bench",
    does: "Stores what was checked: all of it or nothing.",
    answers: oneJob,
    problems: ["not-found", "conflict"],
  }),
};
