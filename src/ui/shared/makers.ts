import type { ReplyFacts } from "@/core/conversation/message";

/** Who made a reply, and by which revision; or that a person did, or a file brought it along. */
export function madeBy({ revision, model, hand, imported }: ReplyFacts): string {
  if (imported) return hand === undefined ? `imported · ${model}` : "imported";
  return hand ? `${hand} by hand` : `revision ${revision} · ${model}`;
}
