import { z } from "zod";

const most = 1_000_000;

/** Tokens that a model counts a picture for: the sum of what it counts for each, for its size in tiles, and in pixels. */
export const pictureTokensSchema = z.strictObject({
  each: z.number().min(0).max(most).default(0),
  /** For each tile of 512 by 512 pixels that the picture needs. */
  tile: z.number().min(0).max(most).default(0),
  /** For each thousand pixels. */
  kilopixel: z.number().min(0).max(most).default(0),
});
export type PictureTokens = z.infer<typeof pictureTokensSchema>;
