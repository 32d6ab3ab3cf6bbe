import { lazy, Suspense } from "react";
import { commandFor } from "@/contract/call";
import { replies } from "@/contract/replies";
import { CopyAction } from "../../shared/CopyAction";
import { duration } from "../../shared/format";
import sentences from "../../shared/sentences/sentences.module.css";
import type { Station, StationScene } from "./station";

/** Fetched when it is opened. */
const GuardsSentence = lazy(() => import("../guards/GuardsSentence"));

/** Where a message comes from. */
export const visitor: Station = {
  name: "Visitor",
  reading: ({ ahead }) => {
    const turn = ahead.track.atHand.rows.at(-1)?.turn;
    return turn === undefined ? "bench · no turn yet" : `bench · turn ${turn}`;
  },
  mark: ({ facts: { steps } }) => ({ state: "done", time: steps && duration(steps.visitor) }),
  Sentence: VisitorSentence,
};

function VisitorSentence({ app, draft }: StationScene) {
  const address = typeof window === "undefined" ? "" : window.location.origin;
  const command = commandFor(replies.ask, address, { slug: app.slug });
  return (
    <>
      <div className={sentences.sentence}>
        Here you speak with the draft; callers get revision <b>{app.liveRevision}</b>, the live one.
      </div>
      <p className={sentences.under}>
        A caller says: <code>{command}</code>
        <CopyAction text={() => command} />
      </p>
      <Suspense fallback={<div aria-busy="true" />}>
        <GuardsSentence app={app.slug} on="sent" content={draft.content} edit={draft.edit} />
      </Suspense>
    </>
  );
}
