import { z } from "zod";
import { reasonSchema } from "@/core/context/reason";
import { problemSchema } from "@/core/problem/problem";
import { deepestBelow, longestAddress } from "@/core/sources/below";
import { digestTokens } from "@/core/sources/digest";
import { blockSchema } from "@/core/sources/document";
import { foundPassageSchema, placeSchema } from "@/core/sources/found";
import { documentKinds } from "@/core/sources/kinds";
import { largestDocument, originSchema, unreadPartSchema } from "@/core/sources/origin";
import { call, json, jsonBody, nothing } from "./call";
import { jobSchema } from "./jobs";

/** A document of an app, with how far it is read. */
const sourceSchema = z
  .object({
    id: z.string(),
    title: z.string(),
    /** Names its passages in marks. */
    short: z.string(),
    origin: originSchema,
    /** SHA-256 of its bytes. */
    hash: z.string(),
    kind: z.enum(documentKinds),
    /** Bytes. */
    size: z.int(),
    /** In how many parts it is read: pages, where it has pages; null until that is known. */
    parts: z.int().nullable(),
    /** How many of them are read. */
    partsRead: z.int(),
    isRead: z.boolean(),
    /** Parts that could not be read, and why. */
    unread: z.array(unreadPartSchema),
    /** As the draft has it cut: how many passages of how many tokens; null until it is. */
    passages: z.int().nullable(),
    tokens: z.int().nullable(),
    /** Epoch milliseconds: when these bytes were had, and when it was last looked for others. */
    hadAt: z.int(),
    lookedAt: z.int(),
    /** Why it can't be read, or why newer bytes could not be had. */
    problem: problemSchema.nullable(),
  })
  .meta({ id: "Source" });
export type Source = z.infer<typeof sourceSchema>;

const one = { 200: json(sourceSchema) };
const added = { 201: json(sourceSchema) };

/** How the vectors of the draft's passages stand, where it is looked for by meaning. */
const vectorsSchema = z.object({
  /** Passages, and those of them that have a vector. */
  passages: z.int(),
  made: z.int(),
  /** Tokens of those that have none, about, and what they would cost. */
  tokens: z.int(),
  price: z.number(),
  currency: z.string(),
  /** Whether the price of the model is set. */
  isPriced: z.boolean(),
  /** Why it stopped, or can't be done. */
  problem: problemSchema.nullable(),
});
export type VectorsStanding = z.infer<typeof vectorsSchema>;

/** What a question finds. */
const foundSchema = z.object({
  /** The best first. */
  found: z.array(foundPassageSchema),
  /** Ids of documents that are not read, or not cut, yet. */
  unready: z.array(z.string()),
  /** Why it was looked for by words alone, where it was to be by meaning, too. */
  wordsAlone: problemSchema.optional(),
  /** Passages whose vectors are not made yet. */
  unmade: z.int().optional(),
});
export type FoundAnswer = z.infer<typeof foundSchema>;

/** A document as it is read, with its cuts. */
const textSchema = z.object({
  title: z.string(),
  version: z.string(),
  /** Some of its blocks, each with the character at which it begins in the document's text. */
  blocks: z.array(z.object({ block: blockSchema, at: z.int() })),
  /** Blocks that it has in all, and the place of the first of these, from 0. */
  count: z.int(),
  first: z.int(),
  /** The passages that these blocks are cut into. */
  passages: z.array(z.object({ passage: z.string(), number: z.int(), where: placeSchema })),
});
export type DocumentText = z.infer<typeof textSchema>;

const about = { passage: z.string(), where: placeSchema };

/** Which fault it was that a reply does not answer from a passage. Ranks count from 1 among those that were found. */
const faultSchema = z.discriminatedUnion("kind", [
  /** The content that made the reply does not answer from that document. */
  z.object({ kind: z.literal("not-named") }),
  /** `rank` is where it would stand among all that the message finds; null where it finds it not at all. */
  z.object({ kind: z.literal("never-found"), ...about, rank: z.int().nullable() }),
  z.object({ kind: z.literal("left-out"), ...about, rank: z.int(), reason: reasonSchema }),
  z.object({ kind: z.literal("not-used"), ...about, rank: z.int(), mark: z.string() }),
  /** It was carried, and the reply cites it. */
  z.object({ kind: z.literal("used"), ...about, rank: z.int(), mark: z.string() }),
]);
export type FaultAnswer = z.infer<typeof faultSchema>;

/** What a newer version of a document says otherwise, block by block. */
const changesSchema = z.object({
  added: z.array(z.string()),
  gone: z.array(z.string()),
  /** Blocks that both have, and how many more are other than are told of. */
  same: z.int(),
  more: z.int(),
});
export type DocumentChanges = z.infer<typeof changesSchema>;

/** Blocks of a document that are given at once. */
export const blocksAtOnce = 120;

/** The documents that an app answers from. */
export const sources = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/sources",
    by: "bench",
    does: "Lists the documents of an app.",
    answers: {
      200: json(
        z.object({ sources: z.array(sourceSchema), folders: z.array(z.string()), vectors: vectorsSchema.nullable() }),
      ),
    },
    problems: ["not-found"],
  }),
  makeVectors: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sources/vectors",
    by: "bench",
    does: "Has the vectors of the draft's passages made that are missing, or all of them anew.",
    body: jsonBody(z.strictObject({ anew: z.literal(true).optional() })),
    answers: { 204: nothing },
    problems: ["not-found", "misconfigured"],
  }),
  addFile: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sources/files",
    by: "bench",
    does: "Adds a file as a document, or takes it for the newer one of that name. What it is, is found from its bytes.",
    query: z.object({ name: z.string().min(1).max(300) }),
    takes: { types: ["application/octet-stream"], largest: largestDocument },
    answers: added,
    problems: ["not-found"],
  }),
  addAddress: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sources/addresses",
    by: "bench",
    does: "Adds what stands at an address as a document; the pages below it become documents of the draft by and by.",
    body: jsonBody(
      z.strictObject({
        /** How many links away from it the pages below it may be that are wanted, too. */
        below: z.int().min(0).max(deepestBelow).optional(),
        url: z.string().min(1).max(longestAddress),
        /** Whether addresses of this machine may be called for it. */
        allowsThisMachine: z.boolean().optional(),
      }),
    ),
    answers: {
      /** With the job that has the pages below it, where some are wanted. */
      201: json(sourceSchema.extend({ job: z.string().optional() })),
    },
    problems: ["not-found", "unreachable", "timed-out", "bad-reply"],
  }),
  addFolder: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sources/folders",
    by: "bench",
    does: "Takes the documents of a folder, and watches it: what changes in it, or comes into it, is read.",
    body: jsonBody(z.strictObject({ path: z.string().min(1).max(1_000) })),
    answers: {
      201: json(
        z.object({
          sources: z.array(sourceSchema),
          /** Files that could not be taken, and why. */
          problems: z.array(z.object({ file: z.string(), problem: problemSchema })),
        }),
      ),
    },
    problems: ["not-found"],
  }),
  leaveFolder: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}/sources/folders",
    by: "bench",
    does: "Watches a folder no more; the documents that came from it stay.",
    query: z.object({ path: z.string().min(1).max(1_000) }),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  find: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/found",
    by: "bench",
    does: "Says which passages a question finds in the documents of the draft. No model answers it; one that makes vectors is asked for that of the question, where it is looked for by meaning.",
    query: z.object({ question: z.string().max(2_000) }),
    answers: { 200: json(foundSchema) },
    problems: ["not-found"],
  }),
  read: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/sources/reading",
    by: "bench",
    does: "Goes on reading the documents of an app, where that was stopped.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
  change: call({
    method: "PATCH",
    path: "/api/bench/sources/{id}",
    by: "bench",
    does: "Gives a document another title, or another name in marks.",
    body: jsonBody(
      z.strictObject({
        title: z.string().trim().min(1).max(120).optional(),
        short: z
          .string()
          .regex(/^[\p{Ll}\p{Lo}\p{N}](?:[\p{Ll}\p{Lo}\p{N}-]{0,38}[\p{Ll}\p{Lo}\p{N}])?$/u, {
            error: "is none: small letters, figures and - make one",
          })
          .optional(),
      }),
    ),
    answers: one,
    problems: ["not-found", "conflict"],
  }),
  digest: call({
    method: "POST",
    path: "/api/bench/sources/{id}/digest",
    by: "bench",
    does: "Has the draft's model make a digest of a document that goes along whole, in passes; the draft has it once it is made. Where that failed or was stopped, it is gone on with.",
    body: jsonBody(
      z.strictObject({
        /** Tokens that it is to have. */
        within: z.int().min(digestTokens.least).max(digestTokens.most),
      }),
    ),
    answers: { 202: json(jobSchema) },
    problems: ["not-found", "conflict", "misconfigured"],
  }),
  lookAgain: call({
    method: "POST",
    path: "/api/bench/sources/{id}/again",
    by: "bench",
    does: "Looks whether what stands at the address of a document has changed.",
    answers: one,
    problems: ["not-found", "unreachable", "timed-out", "bad-reply"],
  }),
  text: call({
    method: "GET",
    path: "/api/bench/sources/{id}/text",
    by: "bench",
    does: "Gives a stretch of a document as it was read, with its cuts.",
    query: z.object({
      /** The bytes that it is wanted of; those that were had last where it is not said. */
      version: z.string().max(64).optional(),
      /** The place of a block, from 0, or a character of its text, that stands in the stretch. */
      first: z.coerce.number().int().min(0).optional(),
      around: z.coerce.number().int().min(0).optional(),
    }),
    answers: { 200: json(textSchema) },
    problems: ["not-found"],
  }),
  fault: call({
    method: "POST",
    path: "/api/bench/replies/{id}/fault",
    by: "bench",
    does: "Says why a reply does not answer from a place of a document: it was never found, left out, or not used.",
    body: jsonBody(z.strictObject({ source: z.string().max(60), at: z.int().min(0) })),
    answers: { 200: json(faultSchema) },
    problems: ["not-found"],
  }),
  changes: call({
    method: "GET",
    path: "/api/bench/sources/{id}/changes",
    by: "bench",
    does: "Says what the newest version of a document says otherwise than an earlier one.",
    query: z.object({ from: z.string().max(64) }),
    answers: { 200: json(changesSchema) },
    problems: ["not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/sources/{id}",
    by: "bench",
    does: "Deletes a document. What is live and answers from it finds nothing in it any more.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
