import { lazy, Suspense } from "react";
import { failsCall, wordFor } from "@/core/problem/problem";
import { isUnderWay } from "@/core/reply/reply";
import { rawTokens } from "@/core/tokens/calibration";
import { cost, count, duration, many } from "../../shared/format";
import { ProviderName } from "../../shared/ProviderName";
import sentences from "../../shared/sentences/sentences.module.css";
import { wordsOfState } from "../../shared/wording/endings";
import type { Mark, ReplyScene, Station, StationScene } from "./station";

/** Fetched when it is opened. */
const GuardsSentence = lazy(() => import("../guards/GuardsSentence"));

/** What came of it. */
export const reply: Station = {
  name: "Reply",
  reading: ({ last }) =>
    last ? `${last.state} · ${many(last.reported ?? rawTokens(last.counts), "token")}` : "none yet",
  mark: markOf,
  Sentence: ReplySentence,
};

function markOf({ reply, facts: { totalMs } }: ReplyScene): Mark {
  const time = totalMs === undefined ? undefined : duration(totalMs);
  if (isUnderWay(reply.state)) return reply.pieces.length === 0 ? {} : { state: "at", reading: "arriving" };
  if (reply.problem)
    return failsCall(reply.problem.kind) && reply.pieces.length === 0
      ? {}
      : { state: "failed", time, reading: wordFor(reply.problem.kind) };
  return { state: "done", time };
}

function ReplySentence({ app, draft, last }: StationScene) {
  return (
    <>
      <LastReply last={last} />
      <Suspense fallback={<div aria-busy="true" />}>
        <GuardsSentence app={app.slug} on="shown" content={draft.content} edit={draft.edit} />
      </Suspense>
    </>
  );
}

function LastReply({ last }: Pick<StationScene, "last">) {
  if (!last)
    return (
      <div className={sentences.sentence}>
        <b>No reply</b> in this conversation yet.
      </div>
    );
  const { revision, imported, model, provider, usage, firstTextMs, totalMs, problem, insteadOf, failures, version } =
    last.facts;
  return (
    <>
      <div className={sentences.sentence}>
        The last reply: <b>{problem ? `failed: ${wordFor(problem.kind)}` : wordsOfState(last.state)}</b>
        {totalMs !== undefined && (
          <>
            {" "}
            after <b>{duration(totalMs)}</b>
          </>
        )}
        {usage && (
          <>
            : <b>{count(usage.input)}</b> tokens in, <b>{count(usage.output)}</b> out
            {usage.thought ? `, ${count(usage.thought)} of them thought` : ""}, for <b>{cost(usage)}</b>
          </>
        )}
        .
      </div>
      <p className={sentences.under}>
        <span>
          {imported ? "Imported; made" : `Made by revision ${revision}`} with {model} on <ProviderName of={provider} />
          {version && version !== model && <>, which answers as {version}</>}
          {insteadOf && (
            <>
              , since {insteadOf.model} on <ProviderName of={insteadOf.provider} /> failed:{" "}
              {wordFor(failures?.at(-1)?.problem.kind ?? "internal")}
            </>
          )}
          .
        </span>
        {firstTextMs !== undefined && <span>First text after {duration(firstTextMs)}.</span>}
        {usage?.estimated && <span>The provider did not report its tokens: these are estimated.</span>}
      </p>
    </>
  );
}
