import { z } from "zod";
import { caughtSchema, guardActs, guardSchema } from "@/core/guards/guard";
import { call, json, jsonBody } from "./call";

const storedCaughtSchema = caughtSchema.extend({
  id: z.int(),
  conversation: z.string(),
  /** The reply that it was caught at. */
  reply: z.string(),
  /** Epoch milliseconds, UTC. */
  at: z.int(),
});
export type StoredCaught = z.infer<typeof storedCaughtSchema>;

const caughtCountSchema = z.object({
  guard: z.string(),
  does: z.enum(guardActs),
  what: caughtSchema.shape.what,
  /** Things, and the replies that they were caught at. */
  times: z.int(),
  replies: z.int(),
});
export type CaughtCount = z.infer<typeof caughtCountSchema>;

const caughtPageSchema = z.object({
  caught: z.array(storedCaughtSchema),
  counts: z.array(caughtCountSchema),
  /** With what the next page is asked for; null where this is the last. */
  before: z.int().nullable(),
});
export type CaughtPage = z.infer<typeof caughtPageSchema>;

const placeSchema = z.object({
  what: caughtSchema.shape.what,
  before: z.string(),
  found: z.string(),
  after: z.string(),
});

const triedSchema = z.object({
  conversations: z.int(),
  messages: z.int(),
  /** Messages in which it was found. */
  hits: z.int(),
  found: z.array(z.object({ conversation: z.string(), message: z.string(), places: z.array(placeSchema) })),
  /** Where it goes on; null where all conversations were looked at. */
  before: z.string().nullable(),
});
export type Tried = z.infer<typeof triedSchema>;

const textTriedSchema = z.object({ places: z.array(placeSchema) });
export type TextTried = z.infer<typeof textTriedSchema>;

/** Texts that a rule is tried on, and characters that each may have. */
export const mostTexts = 200;
export const longestText = 4_000;

/** The rules on what an app sends and shows. */
export const guards = {
  caught: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/caught",
    by: "bench",
    does: "Lists what the guards of an app caught, the newest first, and counts it.",
    query: z.object({
      guard: z.string().max(100).optional(),
      does: z.enum(guardActs).optional(),
      what: caughtSchema.shape.what.optional(),
      /** From then on, in epoch milliseconds. */
      since: z.coerce.number().int().min(0).optional(),
      before: z.coerce.number().int().min(1).optional(),
    }),
    answers: { 200: json(caughtPageSchema) },
    problems: ["not-found"],
  }),
  tryOn: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/guard-tries",
    by: "bench",
    does: "Tries a rule on conversations that are stored, without any model: the newest first, as many as one go takes.",
    body: jsonBody(z.strictObject({ guard: guardSchema, before: z.string().max(100).nullable().optional() })),
    answers: { 200: json(triedSchema) },
    problems: ["not-found"],
  }),
  tryTexts: call({
    method: "POST",
    path: "/api/bench/apps/{slug}/guard-texts",
    by: "bench",
    does: "Tries a rule on texts: what it finds in each.",
    body: jsonBody(z.strictObject({ guard: guardSchema, texts: z.array(z.string().max(longestText)).max(mostTexts) })),
    answers: { 200: json(z.object({ texts: z.array(textTriedSchema) })) },
    problems: ["not-found"],
  }),
};
