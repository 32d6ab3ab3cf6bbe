import { z } from "zod";
import { contentSchema } from "@/core/revision/revision";

export const appName = z.string().trim().min(1, "is empty").max(60, "has more than 60 characters");

/** An app in the list of apps. */
export const listedAppSchema = z.object({
  slug: z.string(),
  name: z.string(),
  provider: z.string(),
  model: z.string(),
  liveRevision: z.int(),
  conversations: z.int(),
  lastUsed: z.int().nullable(),
});
export const appsSchema = z.object({ apps: z.array(listedAppSchema) });
export type ListedApp = z.infer<typeof listedAppSchema>;

/** An app with its draft, and how the draft stands to its revisions. */
export const appSchema = z.object({
  slug: z.string(),
  name: z.string(),
  draft: contentSchema,
  /** The revision that is the same as the draft; null while no reply has used it. */
  draftRevision: z.int().nullable(),
  latest: z.object({ number: z.int(), content: contentSchema }),
  liveRevision: z.int(),
});
export type App = z.infer<typeof appSchema>;

export const makeAppSchema = z.strictObject({ name: appName, provider: z.string(), model: z.string() });
export const renameAppSchema = z.strictObject({ name: appName });
export const copyAppSchema = z.strictObject({ name: appName });
export const draftSchema = z.strictObject({ content: contentSchema });
/** Puts the draft live; it becomes a revision first where it is none. */
export const putLiveSchema = z.strictObject({ content: contentSchema });
