import { z } from "zod";
import { judgementSchema, longestRubric, verdicts } from "@/core/checks/rubric";
import { candidateSchema } from "@/core/reply/events";
import { call, json, jsonBody, nothing } from "./call";
import { jobSchema } from "./jobs";

const rubric = z.string().min(1).max(longestRubric);
/** Characters of a message, and of a reply, that are judged. */
const longest = 20_000;

const agreementSchema = z.object({ agreed: z.int(), of: z.int(), low: z.number(), high: z.number() });

const rubricSchema = z.object({
  rubric: z.string(),
  /** The names of the checks in which it stands; none where it stands in none any more. */
  checks: z.array(z.string()),
  /** How far the judge agrees on what was judged by hand to meet it, and to miss it. */
  meets: agreementSchema,
  misses: agreementSchema,
  /** Whether the judge counts: else what it says is an opinion. */
  counts: z.boolean(),
  /** Replies that were judged by hand and of which the judge said nothing yet. */
  unasked: z.int(),
});
export type JudgedRubric = z.infer<typeof rubricSchema>;

const judgesSchema = z.object({
  /** Who judges; null where nobody was chosen. */
  judge: candidateSchema.nullable(),
  rubrics: z.array(rubricSchema),
  /** Replies of each kind that have to be judged by hand, and what the lower end of the agreement has to be. */
  enoughByHand: z.int(),
  enoughAgreement: z.number(),
});
export type Judges = z.infer<typeof judgesSchema>;

const judgedReplySchema = z.object({
  message: z.string(),
  reply: z.string(),
  byHand: z.enum(verdicts).nullable(),
  /** What the judge said; null while it was not asked, and while nobody judged it by hand. */
  judge: judgementSchema.omit({ counts: true }).nullable(),
});
export type JudgedByHand = z.infer<typeof judgedReplySchema>;

/** Who judges the replies of an app by rubrics, and how far that can be trusted. */
export const judges = {
  read: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/judges",
    by: "bench",
    does: "Says who judges the replies of an app, by which rubrics, and how far that agrees with what was judged by hand.",
    answers: { 200: json(judgesSchema) },
    problems: ["not-found"],
  }),
  choose: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/judge",
    by: "bench",
    does: "Chooses who judges the replies of an app, or nobody.",
    body: jsonBody(z.strictObject({ judge: candidateSchema.nullable() })),
    answers: { 204: nothing },
    problems: ["not-found", "misconfigured", "unknown-model"],
  }),
  replies: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/judged-replies",
    by: "bench",
    does: "Gives replies to be judged by hand by a rubric: those that were, and further ones of trials.",
    query: z.object({ rubric }),
    answers: { 200: json(z.object({ replies: z.array(judgedReplySchema) })) },
    problems: ["not-found"],
  }),
  byHand: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/judged-replies",
    by: "bench",
    does: "Judges a reply by hand by a rubric, or takes that back.",
    body: jsonBody(
      z.strictObject({
        rubric,
        message: z.string().max(longest),
        reply: z.string().trim().min(1, "is empty; write the reply").max(longest),
        verdict: z.enum(verdicts).nullable(),
      }),
    ),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  ask: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/judgements",
    by: "bench",
    does: "Asks the judge about the replies that were judged by hand by a rubric.",
    body: jsonBody(z.strictObject({ rubric })),
    answers: { 202: json(jobSchema) },
    problems: ["not-found", "conflict", "misconfigured"],
  }),
};
