import { z } from "zod";
import { fewestLanes, laneBaseSchema, mostLanes } from "@/core/comparing/lane";
import { setAheadSchema, setAnswerSchema, setMarks } from "@/core/comparing/sets/answer";
import { longestSaid, mostRows, mostSaid } from "@/core/comparing/sets/rows";
import { jobStates } from "@/core/jobs/work";
import { problemSchema } from "@/core/problem/problem";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing, text } from "./call";

const name = z.string().trim().min(1, "is empty").max(100);
const said = z
  .string()
  .max(longestSaid)
  .refine((text) => text.trim() !== "", "is empty; write some text");
/** What a visitor says, one message after another, in a conversation of its own. */
const row = z.array(said).min(1).max(mostSaid);

const wantedSet = z.strictObject({
  name: name.optional(),
  lanes: z
    .array(z.strictObject({ base: laneBaseSchema, content: contentSchema }))
    .min(fewestLanes)
    .max(mostLanes),
  rows: z.array(row).min(1, "holds no message; write one").max(mostRows),
  /** What it may cost at most. */
  mostPrice: z.number().min(0).max(1e9).optional(),
});

const setLaneSchema = z.object({
  base: laneBaseSchema,
  /** The number of the revision that its base was when it was chosen. */
  revision: z.int(),
  hash: z.string(),
  content: contentSchema,
  /** What its base was, where its content is another. */
  changedFrom: contentSchema.nullable(),
});
export type SetLane = z.infer<typeof setLaneSchema>;

const setSchema = z.object({
  id: z.string(),
  app: z.string(),
  /** As the developer named it. */
  name: z.string().nullable(),
  rows: z.array(row),
  lanes: z.array(setLaneSchema),
  /** What was answered, in the order in which it came: all of it, or what came after `after`. */
  answers: z.array(setAnswerSchema),
  /** All marks that there are, of answers that came before `after` too. */
  marks: z.array(z.object({ row: z.int(), lane: z.int(), mark: z.enum(setMarks) })),
  /** Whether the names of the lanes are hidden until all is marked, and how many answers have no mark. */
  hidesNames: z.boolean(),
  unmarked: z.int(),
  /** Answers that had no mark yet when the names were shown. */
  seenEarly: z.int(),
  state: z.enum(jobStates),
  /** Why it failed. */
  problem: problemSchema.nullable(),
  done: z.int(),
  of: z.int(),
  price: z.number(),
  mostPrice: z.number().nullable(),
  currency: z.string(),
  /** Whether there is something left to go on with. */
  canResume: z.boolean(),
  createdAt: z.int(),
});
export type MessageSet = z.infer<typeof setSchema>;

const listedSetSchema = z.object({
  id: z.string(),
  name: z.string().nullable(),
  /** What is said first in it. */
  opening: z.string(),
  rows: z.int(),
  lanes: z.int(),
  state: z.enum(jobStates),
  updatedAt: z.int(),
});
export type ListedSet = z.infer<typeof listedSetSchema>;

const whole = { 200: json(setSchema) };
/** A set without what was answered. */
const standing = { 200: json(setSchema) };

/** Sets of messages that candidates are asked: a table with a row a message and a column a lane. */
export const sets = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/sets",
    by: "bench",
    does: "Lists the sets of messages of an app, the last touched first.",
    answers: { 200: json(z.object({ sets: z.array(listedSetSchema) })) },
    problems: ["not-found"],
  }),
  ahead: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sets-ahead",
    by: "bench",
    does: "Says what a set of messages would cost in each of its lanes.",
    body: jsonBody(wantedSet.pick({ lanes: true, rows: true })),
    answers: { 200: json(z.object({ lanes: z.array(setAheadSchema) })) },
    problems: ["not-found"],
  }),
  fromConversations: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sets-from",
    by: "bench",
    does: "Gives what visitors said in some conversations as the rows of a set: the first message of each, or all.",
    body: jsonBody(
      z.strictObject({
        conversations: z.array(z.string().max(100)).min(1).max(mostRows),
        which: z.enum(["first", "all"]),
      }),
    ),
    answers: { 200: json(z.object({ rows: z.array(row) })) },
    problems: ["not-found"],
  }),
  make: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sets",
    by: "bench",
    does: "Asks several candidates a set of messages, each row in a conversation of its own.",
    body: jsonBody(wantedSet),
    answers: { 201: json(setSchema) },
    problems: ["not-found", "unknown-model", "misconfigured"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/sets/{id}",
    by: "bench",
    does: "Reads a set with what was answered, or with what was answered after an answer.",
    query: z.object({
      /** The `seq` of the last answer that is known. */
      after: z.coerce.number().int().min(0).optional(),
    }),
    answers: whole,
    problems: ["not-found"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/sets/{id}/stop",
    by: "bench",
    does: "Stops a set; what was answered stays.",
    answers: standing,
    problems: ["not-found"],
  }),
  resume: call({
    method: "POST",
    path: "/api/bench/sets/{id}/resume",
    by: "bench",
    does: "Continues a set that was stopped; what was answered is not asked again.",
    answers: standing,
    problems: ["not-found", "conflict"],
  }),
  askFailedAgain: call({
    method: "POST",
    path: "/api/bench/sets/{id}/failed-again",
    by: "bench",
    does: "Asks once more what has failed.",
    answers: standing,
    problems: ["not-found", "conflict"],
  }),
  mark: call({
    method: "PUT",
    path: "/api/bench/sets/{id}/marks",
    by: "bench",
    does: "Marks an answer as good or bad, or takes the mark away. With the last one, hidden names are shown.",
    body: jsonBody(z.strictObject({ row: z.int().min(0), lane: z.int().min(0), mark: z.enum(setMarks).nullable() })),
    answers: standing,
    problems: ["not-found"],
  }),
  hideNames: call({
    method: "PUT",
    path: "/api/bench/sets/{id}/names",
    by: "bench",
    does: "Hides the names of the lanes until all is marked, or shows them before that.",
    body: jsonBody(z.strictObject({ areHidden: z.boolean() })),
    answers: standing,
    problems: ["not-found", "conflict"],
  }),
  name: call({
    method: "PATCH",
    path: "/api/bench/sets/{id}",
    by: "bench",
    does: "Names a set, or takes its name away.",
    body: jsonBody(z.strictObject({ name: name.nullable() })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/sets/{id}",
    by: "bench",
    does: "Deletes a set; for a day it can be restored.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  restore: call({
    method: "POST",
    path: "/api/bench/sets/{id}/restore",
    by: "bench",
    does: "Takes a deletion back.",
    answers: whole,
    problems: ["not-found"],
  }),
  file: call({
    method: "GET",
    path: "/api/bench/sets/{id}/file",
    by: "bench",
    does: "Gives a set with what was answered as a file: a line an answer, or a line a message.",
    query: z.object({ as: z.enum(["csv", "jsonl"]) }),
    answers: { 200: [text("text/csv"), text("application/jsonl")] },
    problems: ["not-found", "conflict"],
  }),
};
