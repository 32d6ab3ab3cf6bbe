import { z } from "zod";
import { type Problem, problemKinds, statusOf, titleOf } from "@/core/problem/problem";
import { contentSchema } from "@/core/revision/content";

/** A problem document (RFC 9457), as every failing call answers. */
export const problemDocumentSchema = z
  .object({
    type: z.string(),
    title: z.string(),
    status: z.int(),
    detail: z.string(),
    kind: z.enum(problemKinds),
    /** What to do. */
    advice: z.string(),
    /** A command that works as it stands. */
    example: z.string().optional(),
    /** The reply that the problem is about. */
    reply: z.string().optional(),
    /** Text that came before the failure. */
    partial: z.string().optional(),
    /** The member of the body that is wrong. */
    param: z.string().optional(),
    retryAfter: z.number().optional(),
  })
  .meta({ id: "Problem" });

/** What the bench is told as well. */
export const benchProblemSchema = problemDocumentSchema.extend({
  /** The draft that stands where another one was to be stored, and the parts of it that both changed. */
  draft: z.object({ content: contentSchema, hash: z.string(), parts: z.array(z.string()) }).optional(),
});
export type ProblemDocument = z.infer<typeof benchProblemSchema>;

/** What a problem document says beside the problem itself. */
export type ProblemExtras = Pick<ProblemDocument, "example" | "reply" | "partial" | "param" | "draft">;

/** The document for a problem. */
export function problemDocument(problem: Problem, extras: ProblemExtras = {}): ProblemDocument {
  return {
    type: `urn:unruly-finch:problem:${problem.kind}`,
    title: titleOf(problem.kind),
    status: statusOf(problem.kind),
    ...problem,
    ...extras,
  };
}
