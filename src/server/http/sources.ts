import type { sources } from "@/contract/sources";
import { largestDocument } from "@/core/sources/origin";
import { sourceAnswer } from "../answers/sources";
import { appAt } from "../apps/app";
import type { HasApps } from "../apps/app-store";
import { type ReadingNeeds, wantReading } from "../jobs/reading-job";
import type { HasRunner } from "../jobs/runner";
import { addFile } from "../sources/sources";
import { Answered, bodyBytes, type Handle } from "./serve";

/** Keeps a file as a document of an app, and has it read. */
export const addSourceFile: Handle<typeof sources.addFile, ReadingNeeds & HasRunner & HasApps> = async (
  home,
  { slug, name, request },
) => {
  const bytes = await bodyBytes(request, largestDocument);
  const app = appAt(home, slug);
  const source = addFile(home, app.id, name, bytes);
  wantReading(home, app);
  return new Answered(201, sourceAnswer(home, source, app.draft));
};
