import { memo, useEffect, useMemo, useRef } from "react";
import type { LaneTurn } from "@/contract/comparisons";
import type { LaneTrack } from "@/core/comparing/track";
import { holdsSomething, textOf } from "@/core/conversation/pieces";
import { titleOf } from "@/core/problem/problem";
import { isUnderWay, type Reply, type ReplyState } from "@/core/reply/reply";
import { Action } from "../shared/Action";
import { Timeline } from "../shared/axis/Timeline";
import { useCompared } from "../shared/differences/use-compared";
import { cost, count } from "../shared/format";
import type { Marking } from "../shared/markdown/marks";
import { Pieces } from "../shared/markdown/Pieces";
import { PlainText } from "../shared/markdown/PlainText";
import { ProblemNote } from "../shared/ProblemNote";
import { ProviderName } from "../shared/ProviderName";
import { readReplyOf } from "../shared/read-reply";
import { SheetRow } from "../shared/sheet/SheetRow";
import sheet from "../shared/sheet/sheet.module.css";
import { useLiveReply } from "../shared/use-live-reply";
import { wordsOfState } from "../shared/wording/endings";
import styles from "./Compare.module.css";
import type { Pointed } from "./FactStrip";

/** What can be done with a lane. */
export interface LaneActs {
  use: (lane: string) => void;
  goOn: (lane: string) => void;
  leave: (lane: string) => void;
  change: (lane: string) => void;
  stop: (lane: string) => void;
  dispatch: (reply: string) => void;
}

interface Props {
  id: string;
  name: string;
  about: string;
  turn: number;
  made: LaneTurn | undefined;
  /** The track as it stands now. */
  track: LaneTrack;
  /** Milliseconds that the axis is long, and up to which a lane under way has come. */
  end: number;
  now: number;
  isThin: boolean;
  /** The fact that is shown in its words. */
  pointed: Pointed | undefined;
  /** The text that its words are held against, where they are. */
  against: string | undefined;
  /** Whether the lane is the one that the others are held against. */
  isMeasure: boolean;
  isNewest: boolean;
  isOpen: boolean;
  acts: LaneActs;
}

/** What a lane gave in a turn: its track, its words, and what they took. */
export const LaneRow = memo(function LaneRow(props: Props) {
  const { made } = props;
  return made?.reply ? <RepliedRow {...props} made={made} reply={made.reply} /> : <SilentRow {...props} />;
});

/** A lane that was not asked yet, or could not be. */
function SilentRow({ id, name, about, turn, made, acts, isNewest }: Props) {
  return (
    <SheetRow
      tone="app"
      label={`Turn ${turn}, ${name}, ${made?.problem ? "could not be asked" : "not asked yet"}`}
      actions={isNewest && <Action onClick={() => acts.change(id)}>change</Action>}
    >
      <Head name={name} about={about} />
      {made?.problem ? (
        <ProblemNote problem={made.problem} />
      ) : (
        <span className={sheet.waiting}>waits until it was asked what came before</span>
      )}
    </SheetRow>
  );
}

function RepliedRow(props: Props & { made: LaneTurn; reply: NonNullable<LaneTurn["reply"]> }) {
  const {
    id,
    name,
    about,
    turn,
    made,
    reply: stored,
    track,
    end,
    now,
    isThin,
    pointed,
    acts,
    isNewest,
    isOpen,
  } = props;
  const reply = useLiveReply(readReplyOf(stored));
  const root = useRef<HTMLDivElement>(null);
  const isArriving = isUnderWay(reply.state);
  const text = textOf(reply);
  const marking = useMarking(props, text, isArriving);
  useEffect(() => {
    if (!pointed) return;
    root.current?.querySelector("mark")?.scrollIntoView({ block: "nearest" });
  }, [pointed]);
  const { insteadOf, failures } = stored.facts;
  return (
    <SheetRow
      tone="app"
      tokens={reply.usage ? count(reply.usage.output) : undefined}
      label={`Turn ${turn}, ${name}, ${reply.state}`}
      side={<Readings made={made} reply={reply} onStop={() => acts.stop(id)} />}
      showsActions={isNewest}
      actions={
        <>
          {!isArriving && isNewest && (
            <Action data-focus={`use ${id}`} onClick={() => acts.use(id)}>
              use this one
            </Action>
          )}
          <Action data-focus={`dispatch ${stored.id}`} aria-expanded={isOpen} onClick={() => acts.dispatch(stored.id)}>
            dispatch
          </Action>
          {isNewest && (
            <>
              {!isArriving && <Action onClick={() => acts.goOn(id)}>go on in Build</Action>}
              <Action data-focus={`change ${id}`} onClick={() => acts.change(id)}>
                change
              </Action>
              <Action onClick={() => acts.leave(id)}>leave out</Action>
            </>
          )}
        </>
      }
    >
      <Head name={name} about={about} />
      <Timeline {...{ track, end, now, isThin }} ending={endingOf(reply.state)} />
      <div ref={root}>
        {insteadOf && (
          <div className={sheet.caution}>
            {stored.facts.model} on <ProviderName of={stored.facts.provider} /> answered instead of {insteadOf.model}:{" "}
            {titleOf(failures?.at(-1)?.problem.kind ?? "internal").toLowerCase()}
          </div>
        )}
        {holdsSomething(reply) ? (
          <Pieces pieces={reply.pieces} by="app" isArriving={isArriving} markingOf={marking && ((at) => marking[at])} />
        ) : (
          isArriving && <span className={sheet.waiting}>{waitingFor(reply)}</span>
        )}
        {reply.thought !== "" && (
          <details className={sheet.thought} open={isArriving && text === ""}>
            <summary>what it thought</summary>
            <PlainText text={reply.thought} />
          </details>
        )}
        {reply.problem && <ProblemNote problem={reply.problem} />}
      </div>
    </SheetRow>
  );
}

function waitingFor({ next, thought }: Reply): string {
  if (next?.because.kind === "at-capacity") return "waiting for a place";
  if (next) return `${titleOf(next.because.kind).toLowerCase()}: attempt ${next.attempt} with ${next.model}`;
  return thought === "" ? "waiting for the first text" : "thinking";
}

function Head({ name, about }: { name: string; about: string }) {
  return (
    <div className={styles.head}>
      <b>{name}</b> <span>{about}</span>
    </div>
  );
}

/** What a reply took: of its calls alone. */
function Readings({ made: { readings }, reply, onStop }: { made: LaneTurn; reply: Reply; onStop: () => void }) {
  if (isUnderWay(reply.state))
    return (
      <>
        <div>{reply.state === "waiting" ? "waiting" : "arriving"}</div>
        <Action onClick={onStop}>stop</Action>
      </>
    );
  const seconds = (ms: number, places: number) => `${(ms / 1000).toFixed(places)} s`;
  const { usage } = reply;
  return (
    <>
      {readings && (
        <div>
          {readings.firstTextMs !== null && (
            <>
              <b>{seconds(readings.firstTextMs, 2)}</b> to text ·{" "}
            </>
          )}
          {seconds(readings.ms, 1)}
          {readings.speed !== null && ` · ${Math.round(readings.speed)} a second`}
        </div>
      )}
      {usage && (
        <div>
          {count(usage.input)} in, {count(usage.output)} out · {cost(usage)}
        </div>
      )}
    </>
  );
}

function endingOf(state: ReplyState): { word: string; tone: "quiet" | "caution" | "bad" } | undefined {
  if (isUnderWay(state)) return undefined;
  const tone = state === "complete" ? "quiet" : state === "failed" || state === "interrupted" ? "bad" : "caution";
  return { word: wordsOfState(state), tone };
}

const nothing: readonly string[] = [];

/** What is marked in the texts of a reply: the fact that is pointed at, else what differs from the text it is held against. */
function useMarking(
  { pointed, against, isMeasure }: Pick<Props, "pointed" | "against" | "isMeasure">,
  text: string,
  isArriving: boolean,
): (Marking | undefined)[] | undefined {
  const holds = against !== undefined && !isMeasure && !isArriving;
  const question = useMemo(
    () => ({
      kind: "shown" as const,
      before: holds ? [against] : nothing,
      after: holds ? [text] : nothing,
      isMarkdown: true,
    }),
    [holds, against, text],
  );
  const differing = useCompared(question);
  return useMemo(() => {
    if (pointed) return [markingOfFact(pointed)];
    if (!holds || differing?.kind !== "marks") return undefined;
    return differing.after.map((blocks) => (_words: string, block: number) => blocks[block] ?? []);
  }, [pointed, holds, differing]);
}

/** Marks a fact wherever it is said in the same words. */
function markingOfFact({ fact }: Pointed): Marking {
  const said = fact.said
    .replace(/[*_`]/g, " ")
    .trim()
    .split(/\s+/)
    .map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"));
  const pattern = new RegExp(`(?<![\\p{L}\\p{N}])${said.join("\\s+")}(?![\\p{L}\\p{N}])`, "gu");
  return (words) =>
    [...words.matchAll(pattern)].map((found) => ({ from: found.index, to: found.index + found[0].length, as: "mark" }));
}
