import { z } from "zod";

/** How a job stands. */
export const jobStates = ["waiting", "running", "done", "stopped", "failed"] as const;

const unfit = z.object({ line: z.int(), why: z.string() });

/** What an import found in its file. */
const checkedSchema = z.object({
  conversations: z.int(),
  messages: z.int(),
  /** How many lines do not fit, and the first of them. */
  unfitCount: z.int(),
  unfit: z.array(unfit),
  preview: z.array(z.object({ opening: z.string(), messages: z.int() })),
});
export type CheckedImport = z.infer<typeof checkedSchema>;

/** What a job does, and how far it is. */
export const workSchema = z.discriminatedUnion("kind", [
  z.object({
    kind: z.literal("import"),
    /** The name of the file. */
    name: z.string(),
    as: z.enum(["jsonl", "columns"]),
    bytes: z.int(),
    phase: z.enum(["sending", "checking", "checked", "storing", "stored"]),
    checked: checkedSchema.optional(),
  }),
  z.object({
    kind: z.literal("say-again"),
    /** The conversation that is said again, the end of its line, and the one that comes of it. */
    of: z.string(),
    through: z.string(),
    into: z.string().optional(),
    opening: z.string(),
    revision: z.int(),
  }),
  /** Trials of checks. */
  z.object({ kind: z.literal("checks"), run: z.string() }),
  /** A set of messages that lanes are asked. */
  z.object({ kind: z.literal("set"), set: z.string() }),
  /** Replies that were judged by hand by a rubric, of which the judge is asked. */
  z.object({ kind: z.literal("judging"), rubric: z.string() }),
  /** Pages below an address, which become documents of an app. */
  z.object({
    kind: z.literal("pages"),
    start: z.string(),
    /** How many links away from the start they may be. */
    deep: z.int(),
    allowsThisMachine: z.literal(true).optional(),
    /** What is to be had yet, and how many links away each is; and every address that was met. */
    open: z.array(z.object({ url: z.string(), level: z.int() })),
    met: z.array(z.string()),
    /** The documents that came of it, and what could not be taken. */
    sources: z.array(z.string()),
    left: z.array(z.object({ url: z.string(), why: z.string() })),
  }),
  /** Vectors of an app's passages, by the model that makes them. */
  z.object({ kind: z.literal("vectors"), provider: z.string(), model: z.string() }),
  /** Questions by which it is measured how well documents are found, asked on several cuts. */
  z.object({ kind: z.literal("retrieval"), run: z.string() }),
  /** Passages of which a model proposes such questions. */
  z.object({ kind: z.literal("proposing") }),
  /** A digest of a document that goes along whole: of which bytes, and tokens that it is to have. */
  z.object({
    kind: z.literal("digest"),
    source: z.string(),
    title: z.string(),
    hash: z.string(),
    within: z.int(),
    /** From 1. */
    pass: z.int(),
  }),
  /** Documents of an app: which one is read, or cut into passages, just now. */
  z.object({
    kind: z.literal("reading"),
    title: z.string(),
    source: z.string(),
    phase: z.enum(["reading", "cutting"]),
    /** Whether what was stopped before is gone on with, too. */
    goesOn: z.literal(true).optional(),
  }),
]);
export type Work = z.infer<typeof workSchema>;
