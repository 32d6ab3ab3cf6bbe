import { z } from "zod";
import { mostRecordings } from "@/core/recordings/file";
import { call, json, jsonBody, nothing } from "./call";

/** What is recorded of an app. */
const keptSchema = z.object({
  count: z.int(),
  /** Bytes of their file, and how many those may be. */
  bytes: z.int(),
  most: z.int(),
  /** When the first and the last of them were made; null where there are none. */
  oldest: z.int().nullable(),
  newest: z.int().nullable(),
});
export type KeptRecordings = z.infer<typeof keptSchema>;

/** What providers answered the checks of an app, to be played again without calling them. */
export const recordings = {
  kept: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/recordings",
    by: "bench",
    does: "Says how much is recorded of an app, and since when.",
    answers: { 200: json(keptSchema) },
    problems: ["not-found"],
  }),
  file: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/recordings-file",
    by: "bench",
    does: "Gives what is recorded of an app as a file: JSON Lines, without a secret.",
    answers: { 200: { kind: "text", type: "application/jsonl", schema: z.string() } },
    problems: ["not-found"],
  }),
  put: call({
    method: "PUT",
    path: "/api/bench/apps/{slug}/recordings-file",
    by: "bench",
    does: "Puts the recordings of a file in the place of those that an app has: all of them or none.",
    body: { ...jsonBody(z.strictObject({ text: z.string().max(mostRecordings) })), largest: 2 * mostRecordings },
    answers: { 200: json(keptSchema) },
    problems: ["bad-request", "not-found"],
  }),
  delete: call({
    method: "DELETE",
    path: "/api/bench/apps/{slug}/recordings",
    by: "bench",
    does: "Lets go of all that is recorded of an app.",
    answers: { 204: nothing },
    problems: ["not-found"],
  }),
};
