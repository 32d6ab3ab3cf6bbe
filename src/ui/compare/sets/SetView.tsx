"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useEffect, useMemo, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import type { Provider } from "@/contract/providers";
import { type MessageSet, sets } from "@/contract/sets";
import { mostLanes } from "@/core/comparing/lane";
import { type Row, writtenRows } from "@/core/comparing/sets/rows";
import type { Content } from "@/core/revision/content";
import { openApp } from "../../build/open-app";
import { server } from "../../shared/api";
import { CandidateEditor } from "../../shared/candidate/CandidateEditor";
import { laneNames, laneSaid, type Spoken } from "../../shared/candidate/candidate-words";
import { Panel } from "../../shared/candidate/Panel";
import { useLive } from "../../shared/candidate/use-live";
import { Fallible } from "../../shared/Fallible";
import { useFocusKept } from "../../shared/keys/use-focus-kept";
import { useKeys } from "../../shared/keys/use-keys";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys, modelChoices, useApp, useProviders } from "../../shared/queries";
import { useStored } from "../../shared/store";
import { useChange } from "../../shared/use-change";
import { keptTexts } from "../../shared/use-kept-text";
import styles from "../Compare.module.css";
import { firstLanes, type NewLane } from "../comparison";
import { chooseLanes, useFreshLanes } from "../fresh-lanes";
import { SetComposer } from "./SetComposer";
import { SetList } from "./SetList";
import { SetSentence } from "./SetSentence";
import { SetStanding } from "./SetStanding";
import { SetTable } from "./SetTable";
import { useSet } from "./use-set";

/** Candidates asked a set of messages, each in a conversation of its own. @param id the set that is open; none for a new one */
export function SetView({ slug, id }: { slug: string; id: string | undefined }) {
  const app = useApp(slug);
  const providers = useProviders();
  const live = useLive(slug, app.data?.liveRevision);
  const set = useSet(id);
  if (app.data && providers.data && live.data && (id === undefined || set.data))
    return (
      <OpenSet app={app.data} providers={providers.data.providers} live={live.data} set={set.data} key={id ?? "new"} />
    );
  const failure = app.error ?? providers.error ?? live.error ?? set.error;
  if (!failure) return <main className={styles.view} aria-busy="true" />;
  return (
    <main className={styles.failed}>
      <ProblemNote problem={failure.problem} />
    </main>
  );
}

/** Under what name the messages of a set are kept that is not asked yet. */
export function setTextName(slug: string): string {
  return `finch.set.${slug}`;
}

function OpenSet({
  app,
  providers,
  live,
  set,
}: {
  app: App;
  providers: Provider[];
  live: Content;
  set: MessageSet | undefined;
}) {
  const { slug } = app;
  const client = useQueryClient();
  const router = useRouter();
  const view = useRef<HTMLElement>(null);
  const [open] = useState(() => openApp(app, client));
  const draft = useStored(open.draft, (state) => state.content);
  const [fresh, setFresh] = useFreshLanes(slug, () =>
    firstLanes(
      live,
      draft,
      app.draftRevision === app.liveRevision,
      modelChoices(providers).map(({ provider, model }) => ({ provider: provider.slug, model: model.name })),
    ),
  );
  const [panel, setPanel] = useState<string>();
  const nameOf = useMemo(
    () => (of: string) => providers.find((each) => each.slug === of)?.name ?? "a provider that is gone",
    [providers],
  );
  const lanes: readonly (Spoken & { key: string })[] =
    set?.lanes.map((lane, at) => ({ ...lane, key: String(at) })) ?? fresh;
  const names = laneNames(lanes, nameOf);
  const list = useQuery({
    queryKey: keys.sets(slug),
    queryFn: () => server.send(sets.list, { slug }),
    staleTime: 0,
  });
  useEffect(() => {
    document.title = `Compare · ${app.name} · Unruly Finch`;
  }, [app.name]);
  useFocusKept(view);

  const asking = useChange(
    "Asking the set",
    async ({ rows, mostPrice }: { rows: readonly Row[]; mostPrice: number | undefined }) => {
      await open.draft.save();
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
  const edited = set ? undefined : fresh.find(({ key }) => key === panel);
  const toggle = (next: string) => setPanel(panel === next ? undefined : next);
  const add = () => {
    const base = app.draftRevision === app.liveRevision ? ("live" as const) : ("draft" as const);
    const lane: NewLane = { key: String(Date.now()), base, content: draft, changedFrom: null };
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
      {edited && (
        <Panel key={edited.key} label={laneSaid(edited)} onClose={() => setPanel(undefined)}>
          <CandidateEditor
            {...{ slug, live, draft, providers, nameOf }}
            candidate={edited}
            isAsked={false}
            onChange={(lane) =>
              setFresh(fresh.map((each) => (each.key === edited.key ? { ...lane, key: each.key } : each)))
            }
            onLeave={
              fresh.length > 2
                ? () => {
                    setFresh(fresh.filter(({ key }) => key !== edited.key));
                    setPanel(undefined);
                  }
                : undefined
            }
          />
        </Panel>
      )}
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
