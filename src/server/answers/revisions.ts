import { revisionsOnPage, type ToldRevision } from "@/contract/revisions";
import type { Content } from "@/core/revision/content";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasReader } from "../archive/threads";
import { refuse } from "../ground/refusal";

/** A page of the revisions of an app, the newest first. */
export async function revisionPage(
  { reader, apps }: HasApps & HasReader,
  { id }: StoredApp,
  before = Number.MAX_SAFE_INTEGER,
): Promise<{ revisions: ToldRevision[]; next: Content | null; before: number | null }> {
  const revisions = await reader.call("revisions", { app: id, before, count: revisionsOnPage });
  const last = revisions.at(-1)?.number ?? 1;
  const next = apps.revision(id, last - 1)?.content ?? null;
  return { revisions, next, before: next ? last : null };
}

/** Writes a note on a revision. @throws {Refusal} `not-found` */
export function noteRevision({ apps }: HasApps, { id, name }: StoredApp, number: string, note: string): void {
  if (!apps.note(id, Number(number), note)) refuse("not-found", `${name} has no revision ${number}.`);
}
