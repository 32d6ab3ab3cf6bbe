import { memo, useMemo, useState } from "react";
import type { Comparison, Lane } from "@/contract/comparisons";
import { comparisons } from "@/contract/comparisons";
import { candidateRows } from "@/core/comparing/candidates";
import { statedIn } from "@/core/comparing/stated";
import { isUnderWay } from "@/core/reply/reply";
import DispatchSheet from "../dispatch/DispatchSheet";
import { server } from "../shared/api";
import { Ruler } from "../shared/axis/Timeline";
import { ContentChange } from "../shared/ContentChange";
import { laneAbout } from "../shared/candidate/candidate-words";
import { PlainText } from "../shared/markdown/PlainText";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { SheetRow, Who } from "../shared/sheet/SheetRow";
import tables from "../shared/table.module.css";
import { useChange } from "../shared/use-change";
import { wordsOfMemory } from "../shared/wording/memory";
import styles from "./Compare.module.css";
import { endedText, turnOf } from "./comparison";
import { FactStrip, type Pointed } from "./FactStrip";
import { useFacts } from "./facts/use-facts";
import { type LaneActs, LaneRow } from "./LaneRow";
import { axisEnd, trackNow } from "./track-now";
import { useClock } from "./use-clock";

/** What is shown over the lanes: their facts, their words against one of them, or what differs between the candidates. */
export type Shows = { kind: "facts" } | { kind: "words"; against: string } | { kind: "candidates" };

interface Props {
  slug: string;
  comparison: Comparison;
  turn: Comparison["turns"][0];
  lanes: readonly Lane[];
  names: readonly string[];
  shows: Shows;
  isNewest: boolean;
  nameOf: (provider: string) => string;
  acts: Omit<LaneActs, "dispatch">;
}

/** A turn of a comparison: what differs, what was asked, and what each lane gave, on one time axis. */
export const TurnSection = memo(function TurnSection(props: Props) {
  const { slug, comparison, turn, lanes, names, shows, isNewest, nameOf, acts } = props;
  const [pointed, setPointed] = useState<Pointed>();
  const [open, setOpen] = useState<string>();
  const made = lanes.map((lane) => turnOf(lane, turn.turn));
  const isArriving = made.some((each) => each?.reply && isUnderWay(each.reply.state));
  const clock = useClock(isArriving);
  const tracks = made.map((each) => trackNow(each, clock));
  const end = axisEnd(tracks.map(({ track, now }) => track.end ?? now));
  const texts = made.map(endedText);
  const rowActs = useMemo(
    () => ({ ...acts, dispatch: (reply: string) => setOpen((before) => (before === reply ? undefined : reply)) }),
    [acts],
  );
  const against = shows.kind === "words" ? texts[lanes.findIndex(({ id }) => id === shows.against)] : undefined;
  return (
    <section aria-label={`Turn ${turn.turn}`} data-turn={turn.turn}>
      {shows.kind === "facts" && (
        <Facts
          {...{ slug, comparison, turn, names, texts, pointed }}
          isDone={made.map((each) => each?.problem != null || (each?.reply != null && !isUnderWay(each.reply.state)))}
          onPoint={setPointed}
        />
      )}
      {shows.kind === "candidates" && isNewest && <Candidates {...{ lanes, names, nameOf }} />}
      <SheetRow tone="visitor" turn={String(comparison.turnsBefore + turn.turn)} label={`Turn ${turn.turn}, visitor`}>
        <Who>Visitor</Who>
        <PlainText text={turn.message} />
        <Ruler end={end} />
      </SheetRow>
      {lanes.map((lane, at) => {
        const each = made[at];
        const { track, now } = tracks[at] ?? trackNow(undefined, clock);
        const isOpen = open !== undefined && open === each?.reply?.id;
        return (
          <div key={lane.id}>
            <LaneRow
              id={lane.id}
              name={names[at] ?? ""}
              about={laneAbout(lane, lane.revision, nameOf)}
              turn={turn.turn}
              made={each}
              track={track}
              end={end}
              now={now}
              isThin={!isNewest}
              pointed={pointed?.lane === at ? pointed : undefined}
              against={against}
              isMeasure={shows.kind === "words" && shows.against === lane.id}
              isNewest={isNewest}
              isOpen={isOpen}
              acts={rowActs}
            />
            {isOpen && each?.reply && <DispatchSheet of={each.reply.id} onFold={() => setOpen(undefined)} />}
          </div>
        );
      })}
    </section>
  );
});

function Facts({
  slug,
  comparison,
  turn,
  names,
  texts,
  isDone,
  pointed,
  onPoint,
}: Pick<Props, "slug" | "comparison" | "turn" | "names"> & {
  texts: readonly (string | undefined)[];
  isDone: boolean[];
  pointed: Pointed | undefined;
  onPoint: (pointed: Pointed | undefined) => void;
}) {
  const found = useFacts([...texts, turn.message]);
  const lanes = texts.map((text, at) => (text === undefined ? undefined : found[at]));
  const { shared, differing } = useMemo(() => statedIn(lanes, found[texts.length] ?? []), [lanes, found, texts.length]);
  const marking = useChange(
    "The mark",
    ({ fact, isRight }: { fact: string; isRight: boolean | null }) =>
      server.send(comparisons.markFact, { slug, body: { question: turn.message, fact, isRight } }),
    [keys.comparison(comparison.id)],
  );
  const marks = useMemo(() => new Map(turn.marks.map(({ fact, isRight }) => [fact, isRight])), [turn.marks]);
  return (
    <>
      <FactStrip
        turn={turn.turn}
        {...{ names, shared, differing, isDone, marks, pointed, onPoint }}
        onMark={(fact, isRight) => marking.run({ fact, isRight })}
      />
      {marking.problem && <ProblemNote problem={marking.problem} />}
    </>
  );
}

/** What differs between the candidates themselves. */
function Candidates({ lanes, names, nameOf }: Pick<Props, "lanes" | "names" | "nameOf">) {
  const rows = candidateRows(
    lanes.map(({ content }) => content),
    { provider: nameOf, memory: wordsOfMemory },
  );
  const [first] = lanes;
  const others = lanes.slice(1).filter(({ content }) => content.prompt !== first?.content.prompt);
  return (
    <div className={styles.differs}>
      {rows.length > 0 && (
        <table className={tables.table} aria-label="What differs between the candidates">
          <thead>
            <tr>
              <th scope="col">setting</th>
              {names.map((name) => (
                <th key={name} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ what, values }) => (
              <tr key={what}>
                <th scope="row">{what}</th>
                {values.map((value, at) => (
                  <td key={names[at]}>{value}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {first &&
        others.map((lane) => (
          <div key={lane.id}>
            <b>
              Prompt of {names[lanes.indexOf(lane)]}, against {names[0]}
            </b>
            <ContentChange
              before={{ ...lane.content, prompt: first.content.prompt }}
              after={lane.content}
              nameOf={nameOf}
            />
          </div>
        ))}
      {rows.length === 0 && others.length === 0 && "Nothing is different in these candidates."}
    </div>
  );
}
