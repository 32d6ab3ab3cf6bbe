"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import { type Comparison, comparisons, type Lane } from "@/contract/comparisons";
import { fewestLanes, mostLanes } from "@/core/comparing/lane";
import { type Content, contentSchema } from "@/core/revision/content";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { CandidateEditor } from "../shared/candidate/CandidateEditor";
import { laneAbout, laneSaid } from "../shared/candidate/candidate-words";
import { Panel } from "../shared/candidate/Panel";
import { Fallible } from "../shared/Fallible";
import { useFocusKept } from "../shared/keys/use-focus-kept";
import { useKeys } from "../shared/keys/use-keys";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { SheetFrame } from "../shared/sheet/SheetFrame";
import { SheetRow } from "../shared/sheet/SheetRow";
import { useChange } from "../shared/use-change";
import { keptTexts } from "../shared/use-kept-text";
import { liveReplies } from "../shared/use-live-reply";
import { CandidatePanel } from "./CandidatePanel";
import styles from "./Compare.module.css";
import { CompareComposer } from "./CompareComposer";
import { CompareSentence } from "./CompareSentence";
import { ComparisonList } from "./ComparisonList";
import { isArriving, type NewLane, openLanes, repliesOf } from "./comparison";
import { chooseLanes } from "./fresh-lanes";
import { ReadBench } from "./ReadBench";
import { type Shows, TurnSection } from "./TurnSection";
import { type Bench, useCandidates } from "./use-candidates";
import { tellServerTime } from "./use-clock";
import { useComparison } from "./use-comparison";
import { type Start, startWords, useStart } from "./use-start";

interface Props {
  slug: string;
  /** The comparison that is open; none for a new one. */
  id: string | undefined;
  start: Start | undefined;
}

/** Several candidates asked the same question. */
export function CompareView({ slug, id, start }: Props) {
  const comparison = useComparison(id);
  return (
    <ReadBench slug={slug} isRead={id === undefined || comparison.data !== undefined} failure={comparison.error}>
      {(bench) => <Compare bench={bench} comparison={comparison.data} start={id === undefined ? start : undefined} />}
    </ReadBench>
  );
}

function Compare({
  bench,
  comparison,
  start,
}: {
  bench: Bench;
  comparison: Comparison | undefined;
  start: Start | undefined;
}) {
  const { app, live, providers } = bench;
  const { slug } = app;
  const client = useQueryClient();
  const router = useRouter();
  const view = useRef<HTMLElement>(null);
  const sheet = useRef<HTMLElement>(null);
  const asked = comparison ? openLanes(comparison) : undefined;
  const candidates = useCandidates(
    bench,
    asked?.map((lane) => ({ ...lane, key: lane.id })),
  );
  const {
    draft: stored,
    content: draft,
    isSame,
    fresh,
    setFresh,
    lanes,
    names,
    nameOf,
    panel,
    setPanel,
    toggle,
  } = candidates;
  const [shows, setShows] = useState<Shows>({ kind: "facts" });
  const [left, setLeft] = useState<Lane>();
  const list = useQuery({
    queryKey: keys.comparisons(slug),
    queryFn: () => server.send(comparisons.list, { slug }),
    staleTime: 0,
  });
  const begin = useStart(start);
  const textName = `finch.compare.${slug}.${comparison?.id ?? start?.after ?? "new"}`;
  const firstText = start ? begin.message : list.data?.lastMessage;
  useEffect(() => {
    // what a visitor said last stands there to be asked again
    if (!comparison && firstText && keptTexts.read(textName) === "") keptTexts.write(textName, firstText);
  }, [comparison, firstText, textName]);
  useEffect(() => {
    if (comparison) tellServerTime(comparison.now);
  }, [comparison]);
  useFocusKept(view);
  const newestTurn = comparison?.turns.length ?? 0;
  useEffect(() => {
    // a turn is read from its head, not followed at its end
    const head = sheet.current?.querySelector<HTMLElement>(`[data-turn="${newestTurn}"]`);
    head?.dispatchEvent(new Event("unfold", { bubbles: true }));
    head?.scrollIntoView({ block: "start" });
  }, [newestTurn]);

  const put = (next: Comparison) => {
    tellServerTime(next.now);
    client.setQueryData(keys.comparison(next.id), next);
    // what came meanwhile was told before this answer was
    void client.invalidateQueries({ queryKey: keys.comparison(next.id) });
    void client.invalidateQueries({ queryKey: keys.comparisons(slug) });
    void client.invalidateQueries({ queryKey: keys.app(slug) });
  };
  const asking = useChange("Asking the lanes", async (message: string) => {
    await stored.save();
    const next = await liveReplies.askAll(
      () =>
        comparison
          ? server.send(comparisons.ask, { id: comparison.id, body: { message } })
          : server.send(comparisons.make, {
              slug,
              body: {
                lanes: fresh.map(({ base, content }) => ({ base, content })),
                ...(start ? { after: start.after } : {}),
                message,
              },
            }),
      repliesOf,
    );
    put(next);
    keptTexts.write(textName, "");
    if (!comparison) router.replace(`/apps/${slug}/compare?comparison=${next.id}`);
  });
  const changing = useChange("The change", async (work: () => Promise<Comparison>) => {
    put(await liveReplies.askAll(work, repliesOf));
  });
  const using = useChange("Using it", async (content: Content) => {
    stored.edit({ ...nothingSet, ...content });
    await stored.save();
    router.push(`/apps/${slug}/build`);
  });
  const goingOn = useChange("Going on", async (lane: string) => {
    const { conversation } = await server.send(comparisons.goOn, { id: lane });
    router.push(`/apps/${slug}/build?conversation=${conversation}`);
  });
  const naming = useChange(
    "The name",
    (name: string) => server.send(comparisons.name, { id: comparison?.id ?? "", body: { name: name.trim() || null } }),
    [keys.comparison(comparison?.id ?? ""), keys.comparisons(slug)],
  );

  const newest = useRef({ asked, changing, using, goingOn });
  newest.current = { asked, changing, using, goingOn };
  const acts = useMemo(
    () => ({
      use: (id: string) => {
        const lane = newest.current.asked?.find((each) => each.id === id);
        if (lane) newest.current.using.run(lane.content);
      },
      goOn: (id: string) => newest.current.goingOn.run(id),
      leave: (id: string) => {
        setLeft(newest.current.asked?.find((each) => each.id === id));
        newest.current.changing.run(() => server.send(comparisons.leaveLane, { id }));
      },
      change: (id: string) => setPanel(id),
      stop: (id: string) => newest.current.changing.run(() => server.send(comparisons.stopLane, { id })),
    }),
    [setPanel],
  );
  const isUnderWay = comparison !== undefined && isArriving(comparison);
  const stop = () => comparison && changing.run(() => server.send(comparisons.stop, { id: comparison.id }));
  const startNew = () => router.push(`/apps/${slug}/compare`);
  useKeys("compare", {
    new: startNew,
    lane: (at) => {
      const lane = lanes[at];
      if (!lane) return false;
      toggle(lane.key);
    },
    find: () => router.push(`/apps/${slug}/history?find`),
    close: () => (isUnderWay ? stop() : false),
  });

  /** Has these candidates stand there where they are asked otherwise. */
  const keepLanes = () =>
    chooseLanes(
      slug,
      lanes.map(({ key, base, content, changedFrom }) => ({ key, base, content, changedFrom })),
    );
  const add = () => {
    const base = isSame ? ("live" as const) : ("draft" as const);
    const spoken: NewLane = { key: String(Date.now()), base, content: draft, changedFrom: null };
    if (comparison)
      changing.run(() => server.send(comparisons.addLane, { id: comparison.id, body: { base, content: draft } }));
    else {
      setFresh([...fresh, spoken]);
      setPanel(spoken.key);
    }
  };
  const edited = comparison && lanes.find(({ key }) => key === panel);
  const problem = [asking, changing, using, goingOn, naming].find((each) => each.problem)?.problem;
  const turns = comparison?.turns ?? [];
  const measure = shows.kind === "words" ? lanes.findIndex(({ key }) => key === shows.against) : -1;

  return (
    <main className={styles.view} ref={view}>
      <h1 className="unseen">Compare candidates of {app.name}</h1>
      <CompareSentence
        {...{ lanes, names, panel, shows }}
        isAsked={comparison !== undefined}
        name={comparison?.name ?? null}
        from={startWords(comparison?.turnsBefore, begin)}
        saved={list.data?.comparisons.length ?? 0}
        onPanel={toggle}
        onAdd={lanes.length < mostLanes ? add : undefined}
        onFromStart={start && !comparison ? startNew : undefined}
        onShow={setShows}
        onName={naming.run}
        otherwise={
          <>
            <Link href={`/apps/${slug}/compare?set=new`} onClick={keepLanes}>
              a set of messages
            </Link>
            <Link href={`/apps/${slug}/compare?duet=new`} onClick={keepLanes}>
              let two of them talk
            </Link>
          </>
        }
      />
      {panel === "list" && (
        <ComparisonList
          slug={slug}
          all={list.data?.comparisons ?? []}
          open={comparison?.id}
          onDeleted={(id) => id === comparison?.id && router.replace(`/apps/${slug}/compare`)}
          onClose={() => setPanel(undefined)}
        />
      )}
      {!comparison && <CandidatePanel {...{ bench, candidates }} fewest={fewestLanes} />}
      {edited && (
        <Panel key={edited.key} label={laneSaid(edited)} onClose={() => setPanel(undefined)}>
          <CandidateEditor
            {...{ slug, live, draft, providers, nameOf }}
            candidate={edited}
            isAsked
            onChange={({ base, content }) => {
              changing.run(() => server.send(comparisons.changeLane, { id: edited.key, body: { base, content } }));
              setPanel(undefined);
            }}
            onLeave={
              lanes.length > fewestLanes
                ? () => {
                    acts.leave(edited.key);
                    setPanel(undefined);
                  }
                : undefined
            }
          />
        </Panel>
      )}
      <SheetFrame end={comparison?.id ?? "new"} ref={sheet}>
        {comparison && asked ? (
          turns.map((turn, at) => (
            <Fallible key={turn.turn} what="this turn">
              <TurnSection
                {...{ slug, comparison, turn, names, nameOf, acts }}
                lanes={asked}
                shows={shows.kind === "words" && measure < 0 ? { kind: "facts" } : shows}
                isNewest={at === turns.length - 1}
              />
            </Fallible>
          ))
        ) : (
          <>
            {lanes.map((lane, at) => (
              <SheetRow key={lane.key} tone="app" label={`${names[at]}, not asked yet`}>
                <div className={styles.head}>
                  <b>{names[at]}</b>{" "}
                  <span>{laneAbout(lane, lane.base === "live" ? app.liveRevision : undefined, nameOf)}</span>
                </div>
              </SheetRow>
            ))}
            <p className={styles.empty}>
              Nothing is sent yet. All of them get the message below at once, each on its own content and memory.
              {isSame && " The draft is the same as the live revision."}
            </p>
          </>
        )}
        {left && asked && !asked.some(({ id }) => id === left.id) && (
          <p className={styles.left}>
            {laneSaid(left)} is left out.{" "}
            <Action
              onClick={() => {
                changing.run(() => server.send(comparisons.takeLaneBack, { id: left.id }));
                setLeft(undefined);
              }}
            >
              undo
            </Action>
          </p>
        )}
      </SheetFrame>
      <Ended turn={turns.length} isUnderWay={isUnderWay} />
      <CompareComposer
        key={comparison?.id ?? "new"}
        slug={slug}
        textName={textName}
        lanes={lanes.map(({ key, content }, at) => ({
          content,
          name: names[at] ?? "",
          ...(comparison ? { lane: key } : {}),
        }))}
        after={start?.after}
        isArriving={isUnderWay}
        isAsking={asking.isRunning}
        onAsk={asking.run}
        onStop={() => void stop()}
        onNew={comparison ? startNew : undefined}
      >
        {(problem ?? begin.problem) && (
          <ProblemNote problem={(problem ?? begin.problem) as NonNullable<typeof problem>} />
        )}
      </CompareComposer>
    </main>
  );
}

/** Tells those who hear the page that all lanes of a turn have ended, once. */
function Ended({ turn, isUnderWay }: { turn: number; isUnderWay: boolean }) {
  const was = useRef(false);
  const [said, setSaid] = useState("");
  useEffect(() => {
    if (was.current && !isUnderWay) setSaid(`All lanes of turn ${turn} have ended.`);
    was.current = isUnderWay;
  }, [isUnderWay, turn]);
  return (
    <p className="unseen" role="status">
      {said}
    </p>
  );
}

/** What a content says that sets nothing. */
const nothingSet = Object.fromEntries(Object.keys(contentSchema.shape).map((name) => [name, undefined]));
