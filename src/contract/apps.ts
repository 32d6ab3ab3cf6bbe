import { z } from "zod";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing } from "./call";

/** Characters that a bundle may have. */
const largestBundle = 30_000_000;

const appName = z.string().trim().min(1, "is empty").max(60, "has more than 60 characters");

/** An app in the list of apps. */
const listedAppSchema = z.object({
  slug: z.string(),
  name: z.string(),
  /** The beginning of its system prompt. */
  purpose: z.string(),
  provider: z.string(),
  model: z.string(),
  liveRevision: z.int(),
  conversations: z.int(),
  lastUsed: z.int().nullable(),
});
export type ListedApp = z.infer<typeof listedAppSchema>;

/** An app with its draft, and how the draft stands to its revisions. */
const appSchema = z.object({
  slug: z.string(),
  name: z.string(),
  draft: contentSchema,
  /** Of the draft: it goes along with an edit of it. */
  draftHash: z.string(),
  /** The revision that is the same as the draft; null while no reply has used it. */
  draftRevision: z.int().nullable(),
  latest: z.object({ number: z.int(), hash: z.string(), content: contentSchema }),
  liveRevision: z.int(),
});
export type App = z.infer<typeof appSchema>;

/** What is missing before an app can answer. */
const preflightSchema = z.object({
  items: z.array(
    z.object({
      /** Whether nothing can be answered until it is put right. */
      blocks: z.boolean(),
      what: z.string(),
      next: z.string(),
      /** Where it is put right. */
      where: z.enum(["providers", "model", "memory", "prompt", "terminal"]),
    }),
  ),
});
export type Preflight = z.infer<typeof preflightSchema>;

export const apps = {
  list: call({
    method: "GET",
    path: "/api/bench/apps",
    by: "bench",
    does: "Lists all apps, the last used first.",
    answers: { 200: json(z.object({ apps: z.array(listedAppSchema) })) },
  }),
  make: call({
    method: "POST",
    path: "/api/bench/apps",
    by: "bench",
    does: "Makes an app that speaks through a model.",
    body: jsonBody(z.strictObject({ name: appName, provider: z.string(), model: z.string() })),
    answers: { 201: json(appSchema) },
    problems: ["not-found"],
  }),
  read: call({
    method: "GET",
    path: "/api/bench/apps/{slug}",
    by: "bench",
    does: "Reads an app.",
    answers: { 200: json(appSchema) },
    problems: ["not-found"],
  }),
  rename: call({
    method: "PATCH",
    path: "/api/bench/apps/{slug}",
    by: "bench",
    does: "Gives an app another name; its address stays.",
    body: jsonBody(z.strictObject({ name: appName })),
    answers: { 200: json(appSchema) },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}",
    by: "bench",
    does: "Deletes an app with all its conversations.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  copy: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/copy",
    by: "bench",
    does: "Makes an app that begins with another's draft.",
    body: jsonBody(z.strictObject({ name: appName })),
    answers: { 201: json(appSchema) },
    problems: ["not-found"],
  }),
  setDraft: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/draft",
    by: "bench",
    does: "Stores an edit of the draft. Where the draft was edited meanwhile, both edits stay if they are of different parts of it; of the same part the second is refused, with what stands there.",
    body: jsonBody(
      z.strictObject({
        content: contentSchema,
        /** Of the draft that was edited. */
        draftHash: z.string().max(64),
      }),
    ),
    answers: { 200: json(appSchema) },
    problems: ["not-found", "conflict"],
  }),
  bundle: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/bundle",
    by: "bench",
    does: "Gives an app as one file: the content of its live revision and its draft, its look, its checks, and its providers, without a secret.",
    answers: { 200: { kind: "text", type: "application/json", schema: z.string() } },
    problems: ["not-found"],
  }),
  fromBundle: call({
    method: "POST",
    path: "/api/bench/bundles",
    by: "bench",
    does: "Makes an app of a bundle: all of it or nothing.",
    body: {
      ...jsonBody(z.strictObject({ text: z.string().max(largestBundle), name: appName.optional() })),
      largest: 2 * largestBundle,
    },
    answers: { 201: json(appSchema) },
    problems: ["conflict"],
  }),
  putLive: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/live",
    by: "bench",
    does: "Puts content live; it becomes a revision first where it is none.",
    body: jsonBody(
      z.strictObject({
        content: contentSchema,
        /** Without this it is refused where checks are worse than with what is live. */
        despite: z.literal("worse").optional(),
      }),
    ),
    answers: { 200: json(appSchema) },
    problems: ["not-found", "worse"],
  }),
  preflight: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/preflight",
    by: "bench",
    does: "Says what is missing before the draft can answer.",
    answers: { 200: json(preflightSchema) },
    problems: ["not-found"],
  }),
};
