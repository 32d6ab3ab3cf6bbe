import { z } from "zod";
import { problemSchema } from "@/core/problem/problem";
import { isAddress } from "@/core/provider/address";
import { variableIn } from "@/core/wire/pasted/pasted";
import { headerName, line } from "./credentials";

/** A model as its provider lists it. */
export const listedModelSchema = z.object({
  name: z.string(),
  /** Whether it is switched on there; null where the provider does not say. */
  isOn: z.boolean().nullable(),
  window: z.int().nullable(),
});
export type ListedModel = z.infer<typeof listedModelSchema>;

/** What a provider said when it was asked for its models. */
export const standingSchema = z.object({
  /** Milliseconds until it answered; null when it did not. */
  answeredMs: z.number().nullable(),
  models: z.array(listedModelSchema),
  problem: problemSchema.nullable(),
  /** What its last answer said is left of its rate limits, and whether that is little. */
  allowance: z.array(
    z.object({
      of: z.string(),
      left: z.string(),
      most: z.string().optional(),
      resets: z.string().optional(),
      isLow: z.boolean(),
    }),
  ),
  /** When it said so, in epoch milliseconds. */
  toldAt: z.int().nullable(),
});
export type Standing = z.infer<typeof standingSchema>;

/** A raw answer, with when its parts arrived. */
export const rawAnswerSchema = z.object({
  status: z.int().nullable(),
  contentType: z.string(),
  headers: z.record(z.string(), z.string()),
  text: z.string(),
  /** Milliseconds after the start and the number of bytes of each arrival. */
  arrivals: z.array(z.tuple([z.number(), z.int()])),
  ms: z.number(),
  problem: problemSchema.nullable(),
});
export type RawAnswer = z.infer<typeof rawAnswerSchema>;

/** Asks a provider something, apart from any conversation. */
export const tryProviderSchema = z.strictObject({
  model: z.string(),
  message: z.string().min(1).max(10_000),
  stream: z.boolean(),
});
export const triedSchema = z.object({
  request: z.object({
    method: z.string(),
    url: z.string(),
    headers: z.record(z.string(), z.string()),
    body: z.string(),
  }),
  answer: rawAnswerSchema,
});
export type Tried = z.infer<typeof triedSchema>;

/** The last answer of a provider that is kept: of a dispatch or of a call that tried something out. */
export const lastAnswerSchema = z.object({
  last: z
    .object({
      at: z.int(),
      model: z.string(),
      contentType: z.string(),
      status: z.int(),
      text: z.string(),
      arrivals: z.int(),
      ms: z.number(),
    })
    .nullable(),
});
export type LastAnswer = NonNullable<z.infer<typeof lastAnswerSchema>["last"]>;

/** A request as it was pasted, to be made as it stands; `$NAME` in it is read from the environment. */
export const pastedCallSchema = z.strictObject({
  /** Any other than these three is refused. */
  method: z.string().refine((method) => ["GET", "POST", "PUT"].includes(method), "is not GET, POST or PUT"),
  url: z
    .string()
    .max(8_000)
    .refine((url) => isAddress(url) || variableIn(url) !== undefined, "is no address"),
  headers: z.array(z.tuple([headerName, line])).max(200),
  user: line.optional(),
  body: z.string(),
  /** What is secret in it: taken out of the answer, should it be echoed. */
  secrets: z.array(z.string().max(20_000)).max(100).optional(),
});
export type PastedCall = z.infer<typeof pastedCallSchema>;

/** A fault plan, as stand-ins take it. */
export const faultPlanSchema = z.strictObject({
  fault: z.string(),
  ms: z.int().min(0).optional(),
  after: z.int().min(0).optional(),
  status: z.int().min(400).max(599).optional(),
  retryAfter: z.number().min(0).optional(),
  /** Where a redirect leads. */
  to: z.string().max(2_000).optional(),
  calls: z.int().min(1).optional(),
});
export type FaultPlan = z.infer<typeof faultPlanSchema>;
/** A fault that a stand-in offers: what it says of itself, and the numbers that it needs, as they usually are. */
export const offeredFaultSchema = z.object({
  name: z.string(),
  says: z.string(),
  needs: faultPlanSchema.pick({ ms: true, after: true, status: true, retryAfter: true }),
});
export type OfferedFault = z.infer<typeof offeredFaultSchema>;
/** Whether a provider is a stand-in, what it does wrong now, and what it can do wrong. */
export const faultSchema = z.object({
  isStandIn: z.boolean(),
  plan: faultPlanSchema.nullable(),
  faults: z.array(offeredFaultSchema),
});
export type FaultStanding = z.infer<typeof faultSchema>;
