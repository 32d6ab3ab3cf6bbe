import { z } from "zod";

/** Characters that the schema of a reply may have. */
export const longestSchema = 20_000;

/** A JSON Schema (2020-12) that a reply has to fit. */
export const replySchemaSchema = z
  .record(z.string(), z.json())
  .refine((schema) => JSON.stringify(schema).length <= longestSchema, {
    error: `has more than ${longestSchema} characters`,
  });
export type ReplySchema = z.infer<typeof replySchemaSchema>;

/** How a model is asked for a reply that fits, where its API has no place for a schema. */
export function askedInWords(schema: ReplySchema): string {
  return `Answer with one JSON document that fits this JSON Schema, and with nothing before or after it:\n\n${JSON.stringify(schema)}`;
}

/** How it is asked once more, after one that does not. */
export function askedToMend(wrong: string): string {
  return `That does not fit the JSON Schema: ${wrong}. Send the whole document once more, corrected, and nothing else.`;
}
