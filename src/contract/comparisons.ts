import { z } from "zod";
import { fewestLanes, laneBaseSchema, mostLanes } from "@/core/comparing/lane";
import { readingsSchema, trackSchema } from "@/core/comparing/track";
import { problemSchema } from "@/core/problem/problem";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing } from "./call";
import { benchReplySchema } from "./conversations";

/** Characters that a message to all lanes may have. */
const longestMessage = 100_000;
const message = z
  .string()
  .max(longestMessage)
  .refine((text) => text.trim() !== "", "is empty; write some text");
const name = z.string().trim().min(1, "is empty").max(100);

/** A candidate that a lane is to be. */
const wantedLaneSchema = z.strictObject({ base: laneBaseSchema, content: contentSchema });
export type WantedLane = z.infer<typeof wantedLaneSchema>;

/** What a lane made of one turn. */
const laneTurnSchema = z.object({
  turn: z.int(),
  /** The reply that it gives, or gave; null while it is not asked yet, and where it could not be. */
  reply: benchReplySchema.nullable(),
  /** Why it could not be asked. */
  problem: problemSchema.nullable(),
  /** When it was asked, in epoch milliseconds; null where it was not yet. */
  askedAt: z.int().nullable(),
  track: trackSchema.nullable(),
  readings: readingsSchema.nullable(),
});
export type LaneTurn = z.infer<typeof laneTurnSchema>;

const laneSchema = z.object({
  id: z.string(),
  base: laneBaseSchema,
  /** The number of the revision that its base was when it was chosen. */
  revision: z.int(),
  hash: z.string(),
  content: contentSchema,
  /** What its base was, where its content is another. */
  changedFrom: contentSchema.nullable(),
  /** The conversation that holds what was said in it; null before anything was. */
  conversation: z.string().nullable(),
  isLeft: z.boolean(),
  turns: z.array(laneTurnSchema),
});
export type Lane = z.infer<typeof laneSchema>;

const comparisonSchema = z.object({
  id: z.string(),
  app: z.string(),
  /** As the developer named it. */
  name: z.string().nullable(),
  /** Turns that all lanes go on from. */
  turnsBefore: z.int(),
  /** What was asked, in order, with the facts that were marked to it. */
  turns: z.array(
    z.object({
      turn: z.int(),
      message: z.string(),
      askedAt: z.int(),
      marks: z.array(z.object({ fact: z.string(), isRight: z.boolean() })),
    }),
  ),
  /** In their order; those that were left out, too. */
  lanes: z.array(laneSchema),
  updatedAt: z.int(),
  /** The server's clock, in epoch milliseconds. */
  now: z.int(),
});
export type Comparison = z.infer<typeof comparisonSchema>;

const listedSchema = z.object({
  id: z.string(),
  name: z.string().nullable(),
  /** What was asked first. */
  opening: z.string(),
  turns: z.int(),
  lanes: z.int(),
  updatedAt: z.int(),
});
export type ListedComparison = z.infer<typeof listedSchema>;

/** What a message would cost in one lane. */
const laneAheadSchema = z.object({
  tokens: z.int(),
  /** How far off that may be. */
  margin: z.int(),
  /** Tokens that a reply may have; null where that is not limited. */
  maxOutput: z.int().nullable(),
  /** The most that it can cost, its reply with it; null where a price is not set. */
  price: z.object({ most: z.number(), currency: z.string() }).nullable(),
  /** Why it could not be sent. */
  problem: problemSchema.nullable(),
});
export type LaneAhead = z.infer<typeof laneAheadSchema>;

const whole = { 200: json(comparisonSchema) };
/** A message of a conversation that all lanes go on from; a visitor's is asked again. */
const after = z.string().max(100).nullable().optional();

/** Candidates that are asked the same. */
export const comparisons = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/comparisons",
    by: "bench",
    does: "Lists the comparisons of an app, the last touched first, and what a visitor said last.",
    answers: {
      200: json(
        z.object({
          comparisons: z.array(listedSchema),
          /** What a visitor said last to the app, to be asked again; empty where nobody said anything. */
          lastMessage: z.string(),
        }),
      ),
    },
    problems: ["not-found"],
  }),
  make: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/comparisons",
    by: "bench",
    does: "Makes a comparison of several candidates, and asks all of them a message.",
    body: jsonBody(
      z.strictObject({
        name: name.optional(),
        lanes: z.array(wantedLaneSchema).min(fewestLanes).max(mostLanes),
        after,
        message,
      }),
    ),
    answers: { 201: json(comparisonSchema) },
    problems: ["not-found", "conflict"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/comparisons/{id}",
    by: "bench",
    does: "Reads a comparison with all that was said in it.",
    answers: whole,
    problems: ["not-found"],
  }),
  ask: call({
    method: "POST",
    path: "/api/bench/comparisons/{id}/turns",
    by: "bench",
    does: "Asks all lanes of a comparison a further message.",
    body: jsonBody(z.strictObject({ message })),
    answers: whole,
    problems: ["not-found", "conflict"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/comparisons/{id}/stop",
    by: "bench",
    does: "Stops what arrives in all lanes of a comparison, and what they were still to be asked.",
    answers: whole,
    problems: ["not-found"],
  }),
  name: call({
    method: "PATCH",
    path: "/api/bench/comparisons/{id}",
    by: "bench",
    does: "Names a comparison, or takes its name away.",
    body: jsonBody(z.strictObject({ name: name.nullable() })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  copy: call({
    method: "POST",
    path: "/api/bench/comparisons/{id}/copy",
    by: "bench",
    does: "Copies a comparison, with all that was said in it.",
    body: jsonBody(z.strictObject({ name: name.optional() })),
    answers: { 201: json(comparisonSchema) },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/comparisons/{id}",
    by: "bench",
    does: "Deletes a comparison; for a day it can be restored.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  restore: call({
    method: "POST",
    path: "/api/bench/comparisons/{id}/restore",
    by: "bench",
    does: "Takes a deletion back.",
    answers: whole,
    problems: ["not-found"],
  }),
  addLane: call({
    method: "POST",
    path: "/api/bench/comparisons/{id}/lanes",
    by: "bench",
    does: "Adds a candidate to a comparison; it is asked all that was asked so far.",
    body: jsonBody(wantedLaneSchema),
    answers: whole,
    problems: ["not-found", "conflict"],
  }),
  changeLane: call({
    method: "PUT",
    path: "/api/bench/lanes/{id}",
    by: "bench",
    does: "Puts another candidate in the place of a lane; it is asked all that was asked so far.",
    body: jsonBody(wantedLaneSchema),
    answers: whole,
    problems: ["not-found", "conflict"],
  }),
  leaveLane: call({
    method: "DELETE",
    path: "/api/bench/lanes/{id}",
    by: "bench",
    does: "Leaves a lane out: it is stopped, and asked nothing more.",
    answers: whole,
    problems: ["not-found"],
  }),
  takeLaneBack: call({
    method: "POST",
    path: "/api/bench/lanes/{id}/restore",
    by: "bench",
    does: "Takes a lane in again that was left out; it is asked what it missed.",
    answers: whole,
    problems: ["not-found", "conflict"],
  }),
  stopLane: call({
    method: "POST",
    path: "/api/bench/lanes/{id}/stop",
    by: "bench",
    does: "Stops what arrives in one lane, and what it was still to be asked.",
    answers: whole,
    problems: ["not-found"],
  }),
  goOn: call({
    method: "POST",
    path: "/api/bench/lanes/{id}/conversation",
    by: "bench",
    does: "Begins a conversation of the bench with what was said in a lane.",
    answers: { 201: json(z.object({ conversation: z.string() })) },
    problems: ["not-found", "conflict"],
  }),
  ahead: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/lanes-ahead",
    by: "bench",
    does: "Says what a message would cost in some lanes.",
    body: jsonBody(
      z.strictObject({
        lanes: z
          .array(
            z.strictObject({
              content: contentSchema,
              /** A lane that goes on. */ lane: z.string().max(100).optional(),
            }),
          )
          .max(mostLanes),
        after,
        /** What is typed so far. */
        typed: z.string().max(longestMessage),
      }),
    ),
    answers: { 200: json(z.object({ lanes: z.array(laneAheadSchema) })) },
    problems: ["not-found"],
  }),
  markFact: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/fact-marks",
    by: "bench",
    does: "Marks a fact that was stated to a question as right or wrong, or takes the mark away.",
    body: jsonBody(
      z.strictObject({ question: message, fact: z.string().min(1).max(300), isRight: z.boolean().nullable() }),
    ),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
