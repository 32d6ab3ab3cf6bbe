import { z } from "zod";

/** The parts of a provider at which something can be put right. */
export const providerParts = ["address", "key", "profile", "call", "models"] as const;
export type ProviderPart = (typeof providerParts)[number];

/** One step of a probe. */
export const probeStepSchema = z.object({
  step: z.string(),
  outcome: z.enum(["good", "bad", "left out"]),
  /** What was found, in a few words. */
  found: z.string(),
  /** Milliseconds. */
  ms: z.number(),
  advice: z.string().optional(),
  /** Where it is put right. */
  at: z.enum(providerParts).optional(),
});
export type ProbeStep = z.infer<typeof probeStepSchema>;
export const probeReportSchema = z.object({ at: z.int(), model: z.string(), steps: z.array(probeStepSchema) });
export type ProbeReport = z.infer<typeof probeReportSchema>;
