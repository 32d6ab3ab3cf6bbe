import { z } from "zod";
import { ledgerEntrySchema, ledgerSchema } from "@/core/context/ledger";
import { problemSchema } from "@/core/problem/problem";
import { usageSchema } from "@/core/reply/events";
import { dispatchNoteSchema } from "@/core/reply/note";
import { call, json, jsonBody } from "./call";
import { shownHeadersSchema } from "./credentials";
import { rawAnswerSchema } from "./tries";

const arrival = z.tuple([z.number(), z.int()]);

export const sentRequestSchema = z.object({
  method: z.string(),
  url: z.string(),
  headers: z.record(z.string(), z.string()),
  body: z.string(),
});
export type SentRequest = z.infer<typeof sentRequestSchema>;

/** A dispatch as it is shown under its reply. */
const dispatchSchema = z.object({
  id: z.string(),
  /** Which of the calls it is of that make up the reply: going on from one is another. */
  call: z.int(),
  /** The round of calls of tools that it belongs to, from 1. */
  round: z.int(),
  attempt: z.int(),
  provider: z.string(),
  model: z.string(),
  startedAt: z.int(),
  /** Milliseconds from the start to the end; null while it is under way. */
  ms: z.int().nullable(),
  /** The key in it is hidden. */
  request: sentRequestSchema,
  /** The request as a curl command, with the key as an environment variable. */
  curl: z.string(),
  status: z.int().nullable(),
  headers: z.record(z.string(), z.string()),
  limits: z.array(
    z.object({ of: z.string(), left: z.string(), most: z.string().optional(), resets: z.string().optional() }),
  ),
  /** Why it ended: the reason, or the problem. */
  end: z.string().nullable(),
  problem: problemSchema.nullable(),
  usage: usageSchema.nullable(),
  notes: z.array(dispatchNoteSchema),
  /** Each entry with the beginning of its text; null where no context was assembled. */
  ledger: ledgerSchema
    .omit({ holding: true, lead: true })
    .extend({ entries: z.array(z.intersection(ledgerEntrySchema, z.object({ text: z.string() }))) })
    .nullable(),
  /** What arrived, with what was read from it; empty once the bytes were thinned out. */
  arrivals: z.array(z.object({ at: z.number(), text: z.string(), read: z.array(z.string()) })),
  isThinned: z.boolean(),
  /** Bytes of the answer. */
  bytes: z.int(),
  text: z.string(),
  thought: z.string(),
  verdict: z.object({ kind: z.string(), saying: z.string() }),
  reader: z.array(arrival).nullable(),
});
export type Dispatch = z.infer<typeof dispatchSchema>;

/** A request that is sent once more, changed or not; its address stays with the provider. */
const sendAgainSchema = z.strictObject({
  url: z.url({ protocol: /^https?$/, error: "is not an http or https address" }),
  headers: shownHeadersSchema,
  body: z.string().max(1_000_000),
});

const dispatchesSchema = z.object({
  dispatches: z.array(dispatchSchema),
  /** What all dispatches take. */
  kept: z.object({ count: z.int(), bytes: z.int() }),
});

export const dispatches = {
  ofReply: call({
    method: "GET",
    path: "/api/bench/replies/{id}/dispatches",
    by: "bench",
    does: "Reads the attempts that a reply took, and what all dispatches take.",
    answers: { 200: json(dispatchesSchema) },
    problems: ["not-found"],
  }),
  ofSummary: call({
    method: "GET",
    path: "/api/bench/summaries/{id}/dispatches",
    by: "bench",
    does: "Reads the attempts that a summary took, and what all dispatches take.",
    answers: { 200: json(dispatchesSchema) },
    problems: ["not-found"],
  }),
  ofMaking: call({
    method: "GET",
    path: "/api/bench/makings/{id}/dispatches",
    by: "bench",
    does: "Reads the attempts that a reply of a trial took, and what all dispatches take.",
    answers: { 200: json(dispatchesSchema) },
    problems: ["not-found"],
  }),
  again: call({
    method: "POST",
    path: "/api/bench/dispatches/{id}/again",
    by: "bench",
    does: "Sends a request once more, apart from its conversation.",
    body: jsonBody(sendAgainSchema),
    answers: { 200: json(rawAnswerSchema) },
    problems: ["not-found", "conflict", "misconfigured", "unauthorised", "unreachable", "timed-out", "bad-reply"],
  }),
  thin: call({
    method: "POST",
    path: "/api/bench/dispatches/thin",
    by: "bench",
    does: "Lets go of the bytes of older dispatches.",
    body: jsonBody(z.strictObject({ olderThanDays: z.number().min(0).max(10_000) })),
    answers: { 200: json(z.object({ thinned: z.int() })) },
  }),
};
