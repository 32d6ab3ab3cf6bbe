import { z } from "zod";
import { problemSchema } from "./replies";

export const modelSchema = z.strictObject({
  name: z.string().min(1),
  /** Tokens that request and reply may have together. */
  window: z.int().min(1),
  price: z.strictObject({ input: z.number().min(0), output: z.number().min(0), currency: z.string().length(3) }),
});
export type Model = z.infer<typeof modelSchema>;

/** Reported tokens of a model per estimated token, and from how many calls it was learned. */
const calibration = z.object({ ratio: z.number(), calls: z.int() });

/** Milliseconds that a provider may take: to connect, to the first event, between events, in all. */
export const limitsSchema = z.strictObject({
  connect: z.int().min(100).max(600_000),
  first: z.int().min(100).max(600_000),
  between: z.int().min(100).max(600_000),
  all: z.int().min(100).max(3_600_000),
});
export type Limits = z.infer<typeof limitsSchema>;

/** The limits of a provider until others are set. */
export const usualLimits: Limits = { connect: 5_000, first: 60_000, between: 30_000, all: 300_000 };

const address = z.url({ protocol: /^https?$/, error: "is not an http or https address" });
const keyVariable = z
  .string()
  .regex(/^[A-Z_][A-Z0-9_]*$/, "is not the name of an environment variable, such as REEDBED_KEY")
  .nullable();

export const providerSchema = z.object({
  id: z.string(),
  name: z.string(),
  address: z.string(),
  shape: z.string(),
  keyVariable: z.string().nullable(),
  /** Whether the environment has a value for the variable. */
  keyIsSet: z.boolean(),
  limits: limitsSchema,
  models: z.array(modelSchema.extend({ calibration })),
  /** How many apps speak through it. */
  apps: z.int(),
});
export type Provider = z.infer<typeof providerSchema>;
export const providersSchema = z.object({ providers: z.array(providerSchema) });

export const wireProviderSchema = z.strictObject({
  name: z.string().trim().min(1, "is empty").max(60),
  address,
  /** The name of a shipped wire profile. */
  profile: z.string(),
  keyVariable,
  models: z.array(modelSchema),
});
export type WireProvider = z.infer<typeof wireProviderSchema>;

export const changeProviderSchema = z.strictObject({
  address: address.optional(),
  keyVariable: keyVariable.optional(),
  limits: limitsSchema.optional(),
});
export type ChangeProvider = z.infer<typeof changeProviderSchema>;

/** What a provider said when it was asked for its models. */
export const standingSchema = z.object({
  /** Milliseconds until it answered; null when it did not. */
  answeredMs: z.number().nullable(),
  models: z.array(z.string()),
  problem: problemSchema.nullable(),
});
export type Standing = z.infer<typeof standingSchema>;

/** A simulated provider that runs on this machine and is not wired yet. */
export const offerSchema = wireProviderSchema;
export const offersSchema = z.object({ offers: z.array(offerSchema) });
