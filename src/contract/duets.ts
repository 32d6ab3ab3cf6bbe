import { z } from "zod";
import { duetEndSchema, longestLine, mostRounds, sideSchema } from "@/core/comparing/duet/duet";
import { laneBaseSchema } from "@/core/comparing/lane";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing, text } from "./call";
import { benchReplySchema } from "./conversations";

const name = z.string().trim().min(1, "is empty").max(100);
const line = z.string().max(longestLine);
const limits = {
  /** In each both speak once. */
  rounds: z.int().min(1).max(mostRounds),
  /** What it may cost at most, and tokens that it may take; null for any. */
  mostPrice: z.number().min(0).max(1e9).nullable().default(null),
  mostTokens: z.int().min(1).max(1e9).nullable().default(null),
};

const wantedDuet = z.strictObject({
  name: name.optional(),
  sides: z.array(z.strictObject({ base: laneBaseSchema, content: contentSchema })).length(2),
  /** What is said first; empty where the opener finds words of its own. */
  opening: line.trim().default(""),
  /** What the opener is told, so that its first words answer something. */
  cue: line.trim().min(1, "is empty; the opener has to be told something").default("Begin the conversation."),
  opener: sideSchema.default(0),
  ...limits,
});

const duetSideSchema = z.object({
  base: laneBaseSchema,
  /** The number of the revision that its base was when it was chosen. */
  revision: z.int(),
  hash: z.string(),
  content: contentSchema,
  /** What its base was, where its content is another. */
  changedFrom: contentSchema.nullable(),
  /** In which the other one is the visitor; null before anything was said to it. */
  conversation: z.string().nullable(),
});
export type DuetSide = z.infer<typeof duetSideSchema>;

const utteranceSchema = z.object({
  /** From 1. */
  number: z.int(),
  side: sideSchema,
  /** Null once it is deleted. */
  reply: benchReplySchema.nullable(),
  /** Words that were put in before it, and told to its side. */
  words: z.array(z.string()),
});
export type Utterance = z.infer<typeof utteranceSchema>;

const duetSchema = z.object({
  id: z.string(),
  app: z.string(),
  /** As the developer named it. */
  name: z.string().nullable(),
  opening: z.string(),
  cue: z.string(),
  opener: sideSchema,
  rounds: z.int(),
  mostPrice: z.number().nullable(),
  mostTokens: z.int().nullable(),
  sides: z.array(duetSideSchema),
  utterances: z.array(utteranceSchema),
  /** Words that were put in and wait to be told. */
  waiting: z.array(z.object({ side: sideSchema, text: z.string() })),
  /** How far it goes in circles, from 0 to 1, and from where on it does. */
  circles: z.number(),
  circleAt: z.number(),
  /** Why it has ended; null while it goes on. */
  ended: duetEndSchema.nullable(),
  tokens: z.int(),
  price: z.number(),
  currency: z.string(),
  updatedAt: z.int(),
});
export type Duet = z.infer<typeof duetSchema>;

const listedDuetSchema = z.object({
  id: z.string(),
  name: z.string().nullable(),
  opening: z.string(),
  utterances: z.int(),
  ended: duetEndSchema.nullable(),
  updatedAt: z.int(),
});
export type ListedDuet = z.infer<typeof listedDuetSchema>;

const whole = { 200: json(duetSchema) };

/** Two candidates in conversation with each other. */
export const duets = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/duets",
    by: "bench",
    does: "Lists the duets of an app, the last touched first.",
    answers: { 200: json(z.object({ duets: z.array(listedDuetSchema) })) },
    problems: ["not-found"],
  }),
  make: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/duets",
    by: "bench",
    does: "Has two candidates talk to each other, each of whom takes the other for its visitor.",
    body: jsonBody(wantedDuet),
    answers: { 201: json(duetSchema) },
    problems: ["not-found", "unknown-model", "misconfigured"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/duets/{id}",
    by: "bench",
    does: "Reads a duet with all that was said.",
    answers: whole,
    problems: ["not-found"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/duets/{id}/stop",
    by: "bench",
    does: "Stops a duet; what was said stays.",
    answers: whole,
    problems: ["not-found"],
  }),
  resume: call({
    method: "POST",
    path: "/api/bench/duets/{id}/resume",
    by: "bench",
    does: "Continues a duet that has ended, within other limits.",
    body: jsonBody(z.strictObject(limits)),
    answers: whole,
    problems: ["not-found", "conflict"],
  }),
  putIn: call({
    method: "POST",
    path: "/api/bench/duets/{id}/words",
    by: "bench",
    does: "Puts a word in: one or both are told it with what the other says next.",
    body: jsonBody(
      z.strictObject({ to: z.array(sideSchema).min(1).max(2), text: line.trim().min(1, "is empty; write some text") }),
    ),
    answers: whole,
    problems: ["not-found"],
  }),
  name: call({
    method: "PATCH",
    path: "/api/bench/duets/{id}",
    by: "bench",
    does: "Names a duet, or takes its name away.",
    body: jsonBody(z.strictObject({ name: name.nullable() })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/duets/{id}",
    by: "bench",
    does: "Deletes a duet; for a day it can be restored.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  restore: call({
    method: "POST",
    path: "/api/bench/duets/{id}/restore",
    by: "bench",
    does: "Takes a deletion back.",
    answers: whole,
    problems: ["not-found"],
  }),
  file: call({
    method: "GET",
    path: "/api/bench/duets/{id}/file",
    by: "bench",
    does: "Gives a duet as a script: Markdown, or a line an utterance.",
    query: z.object({ as: z.enum(["markdown", "jsonl"]) }),
    answers: { 200: [text("text/markdown"), text("application/jsonl")] },
    problems: ["not-found"],
  }),
};
