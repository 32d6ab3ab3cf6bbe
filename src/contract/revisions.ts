import { z } from "zod";
import { replyStates } from "@/core/reply/reply";
import { contentSchema } from "@/core/revision/content";
import { call, json, jsonBody, nothing } from "./call";

/** A revision with what came of it. */
const toldRevisionSchema = z.object({
  number: z.int(),
  /** Epoch milliseconds. */
  at: z.int(),
  note: z.string(),
  content: contentSchema,
  /** Its replies that are there, by how they ended. */
  replies: z.partialRecord(z.enum(replyStates), z.int()),
  /** What the calls for them cost, those included whose replies were deleted; null where nothing was counted. */
  price: z.object({ amount: z.number(), currency: z.string() }).nullable(),
});
export type ToldRevision = z.infer<typeof toldRevisionSchema>;

/** Revisions that are read at once. */
export const revisionsOnPage = 20;

/** The revisions of an app. */
export const revisions = {
  list: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/revisions",
    by: "bench",
    does: "Lists the revisions of an app, newest first, by page, with what came of each.",
    query: z.object({ before: z.coerce.number().int().min(1).optional() }),
    answers: {
      200: json(
        z.object({
          revisions: z.array(toldRevisionSchema),
          /** The revision before the last of them, which it is compared with. */
          next: contentSchema.nullable(),
          before: z.int().nullable(),
        }),
      ),
    },
    problems: ["not-found"],
  }),
  note: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/revisions/{number}/note",
    by: "bench",
    does: "Writes a note on a revision.",
    body: jsonBody(z.strictObject({ note: z.string().max(2_000) })),
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
