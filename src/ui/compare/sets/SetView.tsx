"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useMemo, useRef } from "react";
import { type MessageSet, sets } from "@/contract/sets";
import { fewestLanes, mostLanes } from "@/core/comparing/lane";
import { type Row, writtenRows } from "@/core/comparing/sets/rows";
import { server } from "../../shared/api";
import { Fallible } from "../../shared/Fallible";
import { useFocusKept } from "../../shared/keys/use-focus-kept";
import { useKeys } from "../../shared/keys/use-keys";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import { keptTexts } from "../../shared/use-kept-text";
import { CandidatePanel } from "../CandidatePanel";
import styles from "../Compare.module.css";
import type { NewLane } from "../comparison";
import { chooseLanes } from "../fresh-lanes";
import { ReadBench } from "../ReadBench";
import { type Bench, useCandidates } from "../use-candidates";
import { SetComposer } from "./SetComposer";
import { SetList } from "./SetList";
import { SetSentence } from "./SetSentence";
import { SetStanding } from "./SetStanding";
import { SetTable } from "./SetTable";
import { useSet } from "./use-set";

/** Candidates asked a set of messages, each in a conversation of its own. @param id the set that is open; none for a new one */
export function SetView({ slug, id }: { slug: string; id: string | undefined }) {
  const set = useSet(id);
  return (
    <ReadBench slug={slug} isRead={id === undefined || set.data !== undefined} failure={set.error}>
      {(bench) => <OpenSet key={id ?? "new"} bench={bench} set={set.data} />}
    </ReadBench>
  );
}

/** Under what name the messages of a set are kept that is not asked yet. */
export function setTextName(slug: string): string {
  return `finch.set.${slug}`;
}

function OpenSet({ bench, set }: { bench: Bench; set: MessageSet | undefined }) {
  const { app } = bench;
  const { slug } = app;
  const client = useQueryClient();
  const router = useRouter();
  const view = useRef<HTMLElement>(null);
  const asked = useMemo(() => set?.lanes.map((lane, at) => ({ ...lane, key: String(at) })), [set?.lanes]);
  const candidates = useCandidates(bench, asked);
  const { draft, content, isSame, fresh, setFresh, lanes, names, panel, setPanel, toggle } = candidates;
  const list = useQuery({
    queryKey: keys.sets(slug),
    queryFn: () => server.send(sets.list, { slug }),
    staleTime: 0,
  });
  useFocusKept(view);

  const asking = useChange(
    "Asking the set",
    async ({ rows, mostPrice }: { rows: readonly Row[]; mostPrice: number | undefined }) => {
      await draft.save();
      const made = await server.send(sets.make, {
        slug,
        body: {
          lanes: fresh.map(({ base, content }) => ({ base, content })),
          rows: rows.map((row) => [...row]),
          mostPrice,
        },
      });
      client.setQueryData(keys.set(made.id), made);
      void client.invalidateQueries({ queryKey: keys.app(slug) });
      router.replace(`/apps/${slug}/compare?set=${made.id}`);
    },
    [keys.sets(slug), keys.jobs],
  );
  const naming = useChange(
    "The name",
    (name: string) => server.send(sets.name, { id: set?.id ?? "", body: { name: name.trim() || null } }),
    [keys.set(set?.id ?? ""), keys.sets(slug)],
  );
  /** Has the lanes and the messages of this set stand there to be asked anew. */
  const askAnew = () => {
    if (!set) return;
    chooseLanes(slug, freshOf(set));
    keptTexts.write(setTextName(slug), writtenRows(set.rows));
    router.push(`/apps/${slug}/compare?set=new`);
  };
  const add = () => {
    const lane: NewLane = { key: String(Date.now()), base: isSame ? "live" : "draft", content, changedFrom: null };
    setFresh([...fresh, lane]);
    setPanel(lane.key);
  };
  useKeys("compare", {
    new: () => router.push(`/apps/${slug}/compare`),
    lane: (at) => {
      const lane = fresh[at];
      if (set || !lane) return false;
      toggle(lane.key);
    },
    find: () => router.push(`/apps/${slug}/history?find`),
    close: () => false,
  });
  const problem = [asking, naming].find((each) => each.problem)?.problem;
  return (
    <main className={styles.view} ref={view}>
      <h1 className="unseen">A set of messages for candidates of {app.name}</h1>
      <SetSentence
        {...{ slug, lanes, names, set, panel }}
        saved={list.data?.sets.length ?? 0}
        onPanel={toggle}
        onAdd={!set && fresh.length < mostLanes ? add : undefined}
        onName={naming.run}
        onAnew={askAnew}
        onOneMessage={() => {
          if (set) chooseLanes(slug, freshOf(set));
        }}
      />
      {panel === "list" && (
        <SetList
          slug={slug}
          all={list.data?.sets ?? []}
          open={set?.id}
          onDeleted={(id) => id === set?.id && router.replace(`/apps/${slug}/compare?set=new`)}
          onClose={() => setPanel(undefined)}
        />
      )}
      {!set && <CandidatePanel {...{ bench, candidates }} fewest={fewestLanes} />}
      {problem && <ProblemNote problem={problem} />}
      {set ? (
        <Fallible what="this set">
          <SetStanding slug={slug} set={set} names={names} />
          <SetTable set={set} names={names} />
        </Fallible>
      ) : (
        <SetComposer
          slug={slug}
          lanes={fresh}
          names={names}
          isAsking={asking.isRunning}
          onAsk={(rows, mostPrice) => asking.run({ rows, mostPrice })}
        />
      )}
    </main>
  );
}

function freshOf({ lanes }: MessageSet): NewLane[] {
  return lanes.map(({ base, content, changedFrom }, at) => ({ key: String(at), base, content, changedFrom }));
}
