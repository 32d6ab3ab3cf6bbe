import { z } from "zod";
import {
  cutSchema,
  longestQuestion,
  longestQuote,
  mostCuts,
  retrievalResultSchema,
  retrievalWays,
} from "@/core/sources/retrieval";
import { call, json, jsonBody, nothing } from "./call";
import { jobSchema } from "./jobs";

const questionSchema = z.object({
  id: z.string(),
  /** The document that answers it, and its words that do. */
  source: z.string(),
  title: z.string(),
  question: z.string(),
  quote: z.string(),
  comes: z.enum(["typed", "mark", "proposed"]),
  /** Whether it is asked; what is proposed waits to be weeded. */
  isAsked: z.boolean(),
  /** Whether those words stand in the document as the draft has it. */
  isThere: z.boolean(),
});
export type RetrievalQuestion = z.infer<typeof questionSchema>;

const runSchema = z.object({
  id: z.string(),
  asked: z.array(z.object({ id: z.string(), question: z.string() })),
  cuts: z.array(cutSchema),
  results: z.array(retrievalResultSchema),
  /** Epoch milliseconds, UTC. */
  at: z.int(),
});
export type RetrievalRun = z.infer<typeof runSchema>;

const retrievalSchema = z.object({
  questions: z.array(questionSchema),
  /** What came of asking them, the last time first. */
  runs: z.array(runSchema),
  /** How the draft has its documents cut, and by what it looks for passages. */
  cut: cutSchema,
  ways: z.array(z.enum(retrievalWays)),
  /** What the vectors of one more cut would take, about; null where none are wanted. */
  vectors: z.object({ tokens: z.int(), price: z.number(), currency: z.string(), isPriced: z.boolean() }).nullable(),
});
export type Retrieval = z.infer<typeof retrievalSchema>;

/** How well the documents of an app are found: questions with the words that answer them, asked on several cuts. */
export const retrieval = {
  read: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/retrieval",
    by: "bench",
    does: "Gives the questions by which it is measured how well an app's documents are found, and what came of asking them.",
    answers: { 200: json(retrievalSchema) },
    problems: ["not-found"],
  }),
  add: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/retrieval/questions",
    by: "bench",
    does: "Adds a question, with the words of a document that answer it.",
    body: jsonBody(
      z.strictObject({
        question: z.string().trim().min(1).max(longestQuestion),
        quote: z.string().trim().min(1).max(longestQuote),
        /** The document; the first one that holds the words, where it is not said. */
        source: z.string().max(60).optional(),
      }),
    ),
    answers: { 204: nothing },
    problems: ["not-found", "conflict"],
  }),
  fromMarks: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/retrieval/from-marks",
    by: "bench",
    does: "Proposes what was asked where a reply was marked as good, with the passages that it cites.",
    answers: { 200: json(z.object({ added: z.int() })) },
    problems: ["not-found"],
  }),
  propose: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/retrieval/proposals",
    by: "bench",
    does: "Has the draft's model propose questions: of passages all over the documents, one call of each.",
    body: jsonBody(z.strictObject({ count: z.int().min(1).max(60) })),
    answers: { 202: json(jobSchema) },
    problems: ["not-found", "conflict", "misconfigured", "unknown-model"],
  }),
  change: call({
    method: "PATCH",
    path: "/api/bench/retrieval-questions/{id}",
    by: "bench",
    does: "Has a question asked, or not.",
    body: jsonBody(z.strictObject({ isAsked: z.boolean() })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/retrieval-questions/{id}",
    by: "bench",
    does: "Deletes a question.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  run: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/retrieval/runs",
    by: "bench",
    does: "Asks all questions on some cuts of the documents, in each way in which the draft looks. No model answers; one that makes vectors is asked for those that are missing.",
    body: jsonBody(z.strictObject({ cuts: z.array(cutSchema).min(1).max(mostCuts) })),
    answers: { 202: json(jobSchema) },
    problems: ["not-found", "conflict"],
  }),
};
