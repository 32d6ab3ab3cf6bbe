import { z } from "zod";

/**
 * Milliseconds that a provider may take: to connect, to the first event, between events, in all; and to the first event where
 * a server of one's own may have to load the model before.
 */
export const limitsSchema = z.strictObject({
  connect: z.int().min(100).max(600_000),
  first: z.int().min(100).max(600_000),
  between: z.int().min(100).max(600_000),
  all: z.int().min(100).max(3_600_000),
  loading: z.int().min(100).max(3_600_000).optional(),
});
export type Limits = z.infer<typeof limitsSchema>;

/** The limits of a provider until others are set. */
export const usualLimits: Limits = { connect: 5_000, first: 60_000, between: 30_000, all: 300_000 };

/** What loading may take on a server of one's own, until something else is said. */
export const usualLoading = 300_000;
