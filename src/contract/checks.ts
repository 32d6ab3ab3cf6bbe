import { z } from "zod";
import { mostTrials } from "@/core/checks/chance";
import { outcomes } from "@/core/checks/outcome";
import { longestScript } from "@/core/checks/script";
import { judgedSchema, trialReplySchema } from "@/core/checks/trial";
import { laneBaseSchema } from "@/core/comparing/lane";
import { jobStates } from "@/core/jobs/work";
import { problemSchema } from "@/core/problem/problem";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing } from "./call";

/** Columns that a run may have. */
export const mostColumns = 6;

const scriptSchema = z.object({
  name: z.string(),
  text: z.string(),
  /** SHA-256 of the text. */
  hash: z.string(),
  updatedAt: z.int(),
});
export type CheckScript = z.infer<typeof scriptSchema>;

const scriptsSchema = z.object({
  scripts: z.array(scriptSchema),
  /** The folder that they are read from; null where the app keeps them. */
  folder: z.string().nullable(),
  /** Why it can't be read. */
  problem: problemSchema.nullable(),
  /** Hours between two runs that the checks make by themselves, of how many trials; null where they make none. */
  schedule: z.object({ every: z.int(), trials: z.int(), nextAt: z.int() }).nullable(),
});

/** Where the answers of a run come from. */
const answersFrom = ["called", "recorded-first", "recorded"] as const;

const wantedColumn = z.strictObject({
  name: z.string().trim().min(1).max(60),
  base: laneBaseSchema,
  content: contentSchema,
});

const wantedRun = z.strictObject({
  /** The names of checks; all of them without it. */
  only: z.array(z.string().max(100)).min(1).max(1_000).optional(),
  /** The name of one script; all of them without it. */
  script: z.string().max(80).optional(),
  /** Scripts that are run instead of those of the app. */
  scripts: z
    .array(z.strictObject({ name: z.string().min(1).max(200), text: z.string().max(longestScript) }))
    .min(1)
    .max(100)
    .optional(),
  columns: z.array(wantedColumn).min(1).max(mostColumns),
  /** Of each check on each column. */
  trials: z.int().min(1).max(mostTrials).default(1),
  /** The place of the column that the others are held against. */
  against: z.int().min(0).default(0),
  /** Each trial has the seed after that of the one before; this is the one before the first. */
  seed: z
    .int()
    .min(0)
    .max(2 ** 31 - 1001)
    .default(0),
  /** Whether trials are taken from earlier runs where neither check nor candidate has changed. */
  leavesOutUnchanged: z.boolean().default(false),
  /** What it may cost at most. */
  mostPrice: z.number().min(0).max(1e9).optional(),
  origin: z.enum(["bench", "terminal"]).default("bench"),
  /** Where its answers come from: providers, what is recorded and providers for the rest, or what is recorded alone. */
  answers: z.enum(answersFrom).default("called"),
  /** How fast those are played that are recorded. */
  pace: z.enum(["at-once", "as-recorded"]).default("at-once"),
  /** Whether what providers answer is recorded, in the place of what was. */
  records: z.boolean().default(false),
});
export type WantedRun = z.input<typeof wantedRun>;

const trialSchema = z.object({
  id: z.string(),
  trial: z.int(),
  outcome: z.enum(outcomes),
  /** How each expectation came out, in the order of their lines: h, b or s. */
  outcomes: z.string(),
  /** How long it took. */
  ms: z.int(),
  /** Whether it was taken from an earlier run. */
  isTaken: z.boolean(),
});

/** An expectation that broke, or could not be judged, in the first trial in which it did. */
const missSchema = z.object({
  trial: z.string(),
  number: z.int(),
  /** What its reply said; the making that it came from. */
  text: z.string(),
  making: z.string().nullable(),
  problem: problemSchema.optional(),
  judged: judgedSchema,
});
export type Miss = z.infer<typeof missSchema>;

const standingSchema = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("worse") }),
  z.object({
    kind: z.literal("perhaps-worse"),
    /** Further trials that would tell, and what they would cost; null where there are too many, or no price is known. */
    more: z.int().nullable(),
    price: z.number().nullable(),
  }),
  z.object({ kind: z.literal("better") }),
  z.object({ kind: z.literal("same") }),
  z.object({ kind: z.literal("unknown") }),
]);

const cellSchema = z.object({
  column: z.int(),
  trials: z.array(trialSchema),
  misses: z.array(missSchema),
  /** How it stands to the column that it is held against; null for that one itself. */
  standing: standingSchema.nullable(),
});
export type Cell = z.infer<typeof cellSchema>;

const runCheckSchema = z.object({
  place: z.int(),
  script: z.string(),
  name: z.string(),
  /** What it said, as a script. */
  text: z.string(),
  /** Where its lines stood in its script. */
  lines: z.array(z.int()),
  cells: z.array(cellSchema),
});
export type RunCheck = z.infer<typeof runCheckSchema>;

const runColumnSchema = z.object({
  name: z.string(),
  base: laneBaseSchema,
  revision: z.int(),
  hash: z.string(),
  content: contentSchema,
  /** What providers called the models that answered. */
  versions: z.array(z.string()),
});
export type RunColumn = z.infer<typeof runColumnSchema>;

const runHeadSchema = z.object({
  id: z.string(),
  app: z.string(),
  origin: z.enum(["bench", "terminal", "schedule"]),
  startedAt: z.int(),
  endedAt: z.int().nullable(),
  state: z.enum(jobStates),
  /** Why it failed. */
  problem: problemSchema.nullable(),
  /** Trials that were made, of those that were wanted. */
  done: z.int(),
  of: z.int(),
  held: z.int(),
  broke: z.int(),
  silent: z.int(),
  price: z.number(),
  currency: z.string().nullable(),
  /** Whether there is something left to go on with. */
  canResume: z.boolean(),
  answers: z.enum(answersFrom),
  records: z.boolean(),
});
const listedRunSchema = runHeadSchema.extend({
  checks: z.int(),
  columns: z.array(z.object({ name: z.string(), base: laneBaseSchema, revision: z.int(), held: z.int(), of: z.int() })),
});
export type ListedRun = z.infer<typeof listedRunSchema>;

/** What is worse than it was, though nothing of the app changed. */
const driftSchema = z.object({
  /** The names of checks that came out worse on the same content than in all runs before. */
  worse: z.array(z.string()),
  perhapsWorse: z.array(z.string()),
  /** What the provider calls the model that answers now, since when, and as what it answered before. */
  version: z
    .object({ model: z.string(), version: z.string(), since: z.int(), before: z.string().nullable() })
    .nullable(),
});

const runSchema = runHeadSchema.extend({
  /** Null where nothing was run on the same content before. */
  drift: driftSchema.nullable(),
  trials: z.int(),
  seed: z.int(),
  against: z.int(),
  columns: z.array(runColumnSchema),
  checks: z.array(runCheckSchema),
});
export type Run = z.infer<typeof runSchema>;

const wholeTrialSchema = z.object({
  id: z.string(),
  run: z.string(),
  check: z.string(),
  /** What it said, as a script. */
  text: z.string(),
  column: z.string(),
  trial: z.int(),
  seed: z.int(),
  outcome: z.enum(outcomes),
  ms: z.int(),
  price: z.number(),
  currency: z.string().nullable(),
  at: z.int(),
  turnsBefore: z.int(),
  replies: z.array(trialReplySchema),
  whole: z.array(judgedSchema),
});
export type WholeTrial = z.infer<typeof wholeTrialSchema>;

const oneRun = { 200: json(runSchema) };

/** Scripts of checks, and their runs. */
export const checks = {
  scripts: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/checks",
    by: "bench",
    does: "Reads the scripts of checks of an app.",
    answers: { 200: json(scriptsSchema) },
    problems: ["not-found"],
  }),
  draft: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/checked",
    by: "bench",
    does: "Says how the draft of an app came out when it was checked last.",
    answers: {
      200: json(
        z.object({
          /** Null where it was not checked as it stands. */
          checked: z
            .object({
              run: z.string(),
              at: z.int(),
              held: z.int(),
              of: z.int(),
              worse: z.array(z.string()),
              perhapsWorse: z.array(z.string()),
              against: z.string(),
            })
            .nullable(),
          hasChecks: z.boolean(),
        }),
      ),
    },
    problems: ["not-found"],
  }),
  write: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/checks/{name}",
    by: "bench",
    does: "Writes a script of checks; lines that can't be read are kept all the same.",
    body: jsonBody(
      z.strictObject({
        text: z.string().max(longestScript),
        /** The hash of the text that was changed; null for a new script. */
        was: z.string().nullable(),
      }),
    ),
    answers: { 200: json(scriptSchema) },
    problems: ["not-found", "conflict", "misconfigured"],
  }),
  fromConversation: call({
    method: "POST",
    path: "/api/bench/conversations/{id}/check",
    by: "bench",
    does: "Makes a check of a stored conversation, at the end of a script of its app.",
    body: jsonBody(
      z.strictObject({
        /** The reply that it is about: what was said before is given. Without it all replies become expectations. */
        reply: z.string().max(100).optional(),
      }),
    ),
    answers: { 201: json(z.object({ script: z.string(), check: z.string() })) },
    problems: ["not-found", "conflict", "misconfigured"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}/checks/{name}",
    by: "bench",
    does: "Deletes a script of checks.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  setFolder: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/checks-folder",
    by: "bench",
    does: "Has the scripts of an app read from a folder, or kept by the app again.",
    body: jsonBody(z.strictObject({ folder: z.string().trim().min(1).max(1_000).nullable() })),
    answers: { 200: json(scriptsSchema) },
    problems: ["not-found", "misconfigured"],
  }),
  setSchedule: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/checks-schedule",
    by: "bench",
    does: "Has the checks of an app run by themselves on the live revision, or no more.",
    body: jsonBody(
      z.strictObject({
        /** Null for no more. */
        schedule: z
          .strictObject({ every: z.int().min(1).max(8_760), trials: z.int().min(1).max(mostTrials) })
          .nullable(),
      }),
    ),
    answers: { 200: json(scriptsSchema) },
    problems: ["not-found"],
  }),
  runs: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/runs",
    by: "bench",
    does: "Lists the runs of an app, the latest first.",
    query: z.object({ before: z.string().max(100).optional() }),
    answers: { 200: json(z.object({ runs: z.array(listedRunSchema), hasMore: z.boolean() })) },
    problems: ["not-found"],
  }),
  run: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/runs",
    by: "bench",
    does: "Runs checks on some candidates.",
    body: jsonBody(wantedRun),
    answers: { 201: json(runSchema) },
    problems: ["not-found", "misconfigured", "unknown-model", "conflict"],
  }),
  ahead: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/runs-ahead",
    by: "bench",
    does: "Says how many trials a run would have, and what it would cost.",
    body: jsonBody(wantedRun),
    answers: {
      200: json(
        z.object({
          trials: z.int(),
          /** About; null where a price is not set. */
          price: z.number().nullable(),
          currency: z.string(),
        }),
      ),
    },
    problems: ["not-found", "misconfigured", "unknown-model", "conflict"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/runs/{id}",
    by: "bench",
    does: "Reads a run: how each check came out on each candidate.",
    answers: oneRun,
    problems: ["not-found"],
  }),
  stop: call({
    method: "POST",
    path: "/api/bench/runs/{id}/stop",
    by: "bench",
    does: "Stops a run; what has ended stays.",
    answers: oneRun,
    problems: ["not-found"],
  }),
  resume: call({
    method: "POST",
    path: "/api/bench/runs/{id}/resume",
    by: "bench",
    does: "Goes on with a run that was stopped.",
    answers: oneRun,
    problems: ["not-found", "conflict"],
  }),
  more: call({
    method: "POST",
    path: "/api/bench/runs/{id}/trials",
    by: "bench",
    does: "Asks for further trials of some checks of a run, on all its candidates.",
    body: jsonBody(
      z.strictObject({ checks: z.array(z.int().min(0)).min(1).max(1_000), trials: z.int().min(1).max(mostTrials) }),
    ),
    answers: oneRun,
    problems: ["not-found", "conflict"],
  }),
  deleteRun: call({
    method: "DELETE",
    path: "/api/bench/runs/{id}",
    by: "bench",
    does: "Deletes a run.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  trial: call({
    method: "GET",
    path: "/api/bench/trials/{id}",
    by: "bench",
    does: "Reads a trial: what was said in it, and how it was judged.",
    answers: { 200: json(wholeTrialSchema) },
    problems: ["not-found"],
  }),
};
