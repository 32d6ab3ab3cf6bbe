import { lazy, Suspense } from "react";
import { many } from "../../shared/format";
import type { Station, StationScene } from "./station";

/** Fetched when it is opened: no other station has as much to it. */
const SourcesStation = lazy(() => import("../sources/SourcesStation"));

/** The documents that it may answer from. */
export const sources: Station = {
  name: "Sources",
  reading: ({ draft, ahead, findings }) => {
    const documents = draft.content.sources?.documents.length ?? 0;
    if (documents === 0) return "none";
    const carried = ahead.parts.filter(({ kind, carried }) => kind === "passages" && carried);
    if (!findings.isTyped) return many(documents, "document");
    return `${many(carried.length, "passage")} · ${many(
      carried.reduce((sum, { tokens }) => sum + tokens, 0),
      "token",
    )}`;
  },
  mark: () => ({ state: "done" }),
  Sentence: SourcesSentence,
};

function SourcesSentence(scene: StationScene) {
  return (
    <Suspense fallback={<div aria-busy="true" />}>
      <SourcesStation {...scene} />
    </Suspense>
  );
}
