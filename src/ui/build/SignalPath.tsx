import { type ReactNode, useEffect, useState } from "react";
import type { LineMessage } from "@/contract/conversations";
import { type ProblemKind, wordFor } from "@/core/problem/problem";
import { isUnderWay, type Reply } from "@/core/reply/reply";
import { duration } from "../shared/format";
import { useLiveReply } from "../shared/use-live-reply";
import { readReplyOf } from "./read-reply";
import styles from "./SignalPath.module.css";

/** The stations of the signal path, in order. */
export const stations = ["Visitor", "Prompt", "Memory", "Sources", "Model", "Reply"] as const;
export type Station = (typeof stations)[number];

type AppMessage = Extract<LineMessage, { role: "app" }>;

interface Props {
  /** What each station says of itself when no message is under way. */
  readings: Record<Station, string>;
  open: Station | null;
  onOpen: (station: Station | null) => void;
  /** The last reply of the open conversation. */
  last: AppMessage | undefined;
  /** The sentences of the open station. */
  children: ReactNode;
}

/** The way of a message through the app, as six stations on one line. */
export function SignalPath({ readings, open, onOpen, last, children }: Props) {
  return (
    <>
      {last ? (
        <LivePath {...{ readings, open, onOpen }} last={last} />
      ) : (
        <Path {...{ readings, open, onOpen }} marks={{}} reached={0} />
      )}
      {open && (
        <section className={styles.panel} id="station" aria-label={open}>
          {children}
        </section>
      )}
    </>
  );
}

interface Mark {
  /** What the time is of; left out where there is little room. */
  before?: string;
  time?: string;
  reading?: string;
  state?: "done" | "at" | "failed";
}

/** The path with the times and the state of the last reply on it. */
function LivePath({ readings, open, onOpen, last }: Omit<Props, "children" | "last"> & { last: AppMessage }) {
  const reply = useLiveReply(readReplyOf(last));
  const waited = useWaited(isUnderWay(reply.state) && reply.pieces.length === 0);
  const { steps, firstTextMs, totalMs } = last.facts;
  const marks: Partial<Record<Station, Mark>> = {
    Visitor: { state: "done", time: steps && duration(steps.visitor) },
    Prompt: { state: "done", time: steps && duration(steps.prompt) },
    Memory: { state: "done", time: steps && duration(steps.memory) },
    Sources: { state: "done" },
    Model: modelMark(reply, firstTextMs, waited),
    Reply: replyMark(reply, totalMs),
  };
  const reached =
    marks.Reply?.state === "done" || marks.Reply?.state === "failed" ? 5 : reply.pieces.length > 0 ? 5 : 4;
  return <Path {...{ readings, open, onOpen, marks }} reached={marks.Model?.state === "failed" ? 4 : reached} />;
}

/** Failures that happen before the model says anything. */
const modelFailures = new Set<ProblemKind>([
  "unreachable",
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "misconfigured",
  "timed-out",
  "rate-limited",
  "overloaded",
]);

function modelMark(reply: Reply, firstTextMs: number | undefined, waited: number): Mark {
  if (reply.problem && modelFailures.has(reply.problem.kind) && reply.pieces.length === 0)
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

function replyMark(reply: Reply, totalMs: number | undefined): Mark {
  const time = totalMs === undefined ? undefined : duration(totalMs);
  if (isUnderWay(reply.state)) return reply.pieces.length === 0 ? {} : { state: "at", reading: "arriving" };
  if (reply.problem)
    return modelFailures.has(reply.problem.kind) && reply.pieces.length === 0
      ? {}
      : { state: "failed", time, reading: wordFor(reply.problem.kind) };
  return { state: "done", time };
}

/** Milliseconds since waiting began, counted ten times a second. */
function useWaited(isWaiting: boolean): number {
  const [waited, setWaited] = useState(0);
  useEffect(() => {
    if (!isWaiting) return;
    const began = performance.now();
    setWaited(0);
    const timer = setInterval(() => setWaited(performance.now() - began), 100);
    return () => clearInterval(timer);
  }, [isWaiting]);
  return waited;
}

function Path({
  readings,
  open,
  onOpen,
  marks,
  reached,
}: Omit<Props, "children" | "last"> & { marks: Partial<Record<Station, Mark>>; reached: number }) {
  return (
    <ol className={styles.path} style={{ "--reached": reached / 5 } as React.CSSProperties} aria-label="Signal path">
      {stations.map((station, at) => {
        const { state, before, time, reading } = marks[station] ?? {};
        return (
          <li key={station} className={styles.station} data-state={state}>
            <button
              type="button"
              aria-expanded={open === station}
              aria-controls="station"
              aria-keyshortcuts={`Alt+${at + 1}`}
              onClick={() => onOpen(open === station ? null : station)}
            >
              <b>{station}</b>{" "}
              <span className={styles.time}>
                {time && before && <span className={styles.before}>{before}</span>}
                {time}
              </span>
              <span className={styles.reading}>{reading ?? readings[station]}</span>
            </button>
          </li>
        );
      })}
    </ol>
  );
}
