import dynamic from "next/dynamic";
import { failsCall, wordFor } from "@/core/problem/problem";
import { isUnderWay } from "@/core/reply/reply";
import { duration } from "../../shared/format";
import { ModelSentence } from "../../shared/sentences/ModelSentence";
import type { Mark, ReplyScene, Station } from "./station";

const ToolsSentence = dynamic(() => import("../tools/ToolsSentence"), { ssr: false });
const SchemaSentence = dynamic(() => import("../tools/SchemaSentence"), { ssr: false });

/** Who speaks, and what it may ask for. */
export const model: Station = {
  name: "Model",
  reading: ({ draft: { content }, providers }) =>
    `${content.model} on ${providers.find(({ slug }) => slug === content.provider)?.name ?? "nothing"}`,
  mark: markOf,
  Sentence: ({ app, draft, providers }) => (
    <>
      <ModelSentence {...draft} providers={providers} />
      <ToolsSentence app={app.slug} {...draft} />
      <SchemaSentence {...draft} />
    </>
  ),
};

function markOf({ reply, waited, facts: { firstTextMs } }: ReplyScene): Mark {
  if (reply.problem && failsCall(reply.problem.kind) && reply.pieces.length === 0)
    return { state: "failed", reading: wordFor(reply.problem.kind) };
  if (isUnderWay(reply.state) && reply.pieces.length === 0 && reply.next)
    return {
      state: "at",
      time: duration(waited),
      reading: `${wordFor(reply.next.because.kind)}: attempt ${reply.next.attempt}, ${reply.next.model}`,
    };
  if (reply.state === "waiting" || (reply.state === "arriving" && reply.pieces.length === 0))
    return { state: "at", time: duration(waited), reading: reply.thought ? "thinking" : undefined };
  return { state: "done", before: "first text ", time: firstTextMs === undefined ? undefined : duration(firstTextMs) };
}
