import { z } from "zod";
import { problemSchema } from "@/core/problem/problem";
import { longestAddress } from "@/core/sources/below";
import { largestDocument } from "@/core/sources/origin";
import { call, json, jsonBody, nothing } from "./call";
import { callerProblems } from "./replies";

/** A document of the caller's own. */
const ownDocumentSchema = z
  .object({
    document: z.string(),
    title: z.string(),
    /** Bytes. */
    size: z.int(),
    /** Replies are made from it once it is `ready`. */
    state: z.enum(["reading", "ready", "failed"]),
    /** Why it can't be read. */
    problem: problemSchema.optional(),
    /** Conversations in which something of it was found, and which are forgotten with it. */
    conversations: z.int(),
  })
  .meta({ id: "OwnDocument" });
export type OwnDocument = z.infer<typeof ownDocumentSchema>;

const handed = { 201: json(ownDocumentSchema) };
const handing = [...callerProblems, "not-found", "conflict"] as const;

/** Documents of callers: each is answered from for its caller alone. */
export const documents = {
  handIn: call({
    method: "POST",
    path: "/api/apps/{slug}/documents",
    by: "visitor",
    does: "Hands in a file that the caller alone is answered from; one of the same name is the newer one of that.",
    query: z.object({ name: z.string().min(1).max(300) }),
    takes: { types: ["application/octet-stream"], largest: largestDocument },
    answers: handed,
    problems: handing,
  }),
  handInAddress: call({
    method: "POST",
    path: "/api/apps/{slug}/documents/addresses",
    by: "visitor",
    does: "Hands in what stands at an address, which is fetched once.",
    body: jsonBody(z.strictObject({ url: z.string().min(1).max(longestAddress) })),
    answers: handed,
    problems: [...handing, "unreachable", "timed-out", "bad-reply"],
    example: { body: { url: "https://ferry.example/rules" } },
  }),
  list: call({
    method: "GET",
    path: "/api/apps/{slug}/documents",
    by: "visitor",
    does: "Lists the caller's documents.",
    answers: { 200: json(z.object({ documents: z.array(ownDocumentSchema) })) },
    problems: ["not-found", "unknown-caller"],
  }),
  forget: call({
    method: "DELETE",
    path: "/api/apps/{slug}/documents/{id}",
    by: "visitor",
    does: "Forgets a document, with the conversations in which something of it was found. 204 says that all of it is gone from every byte, 202 that this takes longer.",
    answers: { 204: nothing, 202: nothing },
    problems: ["not-found", "unknown-caller"],
  }),
};
