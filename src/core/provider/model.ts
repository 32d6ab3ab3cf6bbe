import { z } from "zod";
import { mostTokens } from "../tokens/count";
import { pictureTokensSchema } from "../tokens/picture-tokens";
import { pricesSchema, unsetPrices } from "../tokens/price";

/** Tokens that a context window is taken to have where nobody said it. */
const guessedWindow = 8_192;

/** What a model can do beside text. */
export const abilities = ["thought", "pictures", "tools", "json", "vectors"] as const;
export type Ability = (typeof abilities)[number];

/** Whether a model speaks: what makes vectors does nothing else. */
export function speaks({ can }: { can?: readonly Ability[] }): boolean {
  return !can?.includes("vectors");
}

export const modelSchema = z.strictObject({
  name: z.string().trim().min(1, "is empty").max(200),
  /** Tokens that request and reply may have together. */
  window: z.int().min(1).max(mostTokens),
  /** Whether nobody said how large it is. */
  isWindowGuessed: z.boolean().optional(),
  /** Per million tokens. */
  price: pricesSchema,
  /** Whether apps are offered it. */
  isOn: z.boolean().optional(),
  /** What it can do; nothing where nobody said it. */
  can: z.array(z.enum(abilities)).optional(),
  /** Tokens that it counts a picture for; learned from what its provider reports where nobody said it. */
  pictureTokens: pictureTokensSchema.optional(),
});
export type Model = z.infer<typeof modelSchema>;

/** What a provider calls the model that answers under a name. */
export const modelVersionSchema = z.object({
  version: z.string(),
  /** Epoch milliseconds. */
  since: z.int(),
  /** As what it answered before. */
  before: z.string().optional(),
});
export type ModelVersion = z.infer<typeof modelVersionSchema>;

/** A model of which only its name is known, and perhaps its window, which is a guess otherwise; its price is not set. */
export function unknownModel(name: string, window?: number | null): Model {
  return { name, window: window || guessedWindow, isWindowGuessed: !window, price: unsetPrices };
}
