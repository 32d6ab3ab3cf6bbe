"use client";

import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { lazy, Suspense, useEffect, useMemo, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import { type CheckScript, checks, mostColumns, type Run, type WantedRun } from "@/contract/checks";
import type { Provider } from "@/contract/providers";
import { rubricsIn } from "@/core/checks/expectations/rubric";
import { parseScript } from "@/core/checks/parse";
import { expectedIn } from "@/core/checks/script";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { openApp } from "../build/open-app";
import { Action } from "../shared/Action";
import { problemIn, server } from "../shared/api";
import { CandidateEditor } from "../shared/candidate/CandidateEditor";
import { laneNames, laneSaid, type Spoken } from "../shared/candidate/candidate-words";
import { Panel } from "../shared/candidate/Panel";
import { useLive } from "../shared/candidate/use-live";
import { price } from "../shared/format";
import { useFocusKept } from "../shared/keys/use-focus-kept";
import { useKeys } from "../shared/keys/use-keys";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, useApp, useProviders } from "../shared/queries";
import { useStored } from "../shared/store";
import { useChange } from "../shared/use-change";
import styles from "./Checks.module.css";
import { type Answers, ChecksSentence } from "./ChecksSentence";
import type { Against } from "./groups";
import { Recorded } from "./Recorded";
import { RunList } from "./RunList";
import { RunSheet } from "./RunSheet";
import { RunSummary } from "./RunSummary";
import { ScriptBar } from "./ScriptBar";
import { useRun, useScripts } from "./use-run";
import { useScript } from "./use-script";

const JudgesPanel = dynamic(() => import("./judges/JudgesPanel").then((made) => made.JudgesPanel), { ssr: false });
const ScriptEditor = lazy(() => import("./ScriptEditor"));

interface Props {
  slug: string;
  /** The run that is open; the latest where none is named. */
  run: string | undefined;
  /** Whether the script is open, and at which check. */
  isEdited: boolean;
  check: string | undefined;
}

/** The checks of an app: the script, and how it came out on each candidate. */
export function ChecksView({ slug, run, isEdited, check }: Props) {
  const app = useApp(slug);
  const providers = useProviders();
  const live = useLive(slug, app.data?.liveRevision);
  const scripts = useScripts(slug);
  const runs = useQuery({
    queryKey: [...keys.runs(slug), "latest"],
    queryFn: () => server.send(checks.runs, { slug }),
    staleTime: 0,
  });
  const id = run ?? runs.data?.runs[0]?.id;
  const open = useRun(id);
  const isRead = id === undefined || open.data !== undefined;
  // what was read once stays, while the server is away too
  if (app.data && providers.data && live.data && scripts.data && runs.data && isRead)
    return (
      <Checks
        app={app.data}
        providers={providers.data.providers}
        live={live.data}
        scripts={scripts.data.scripts}
        folder={scripts.data.folder}
        folderProblem={scripts.data.problem}
        schedule={scripts.data.schedule}
        run={open.data}
        isEdited={isEdited}
        check={check}
      />
    );
  const failure = app.error ?? providers.error ?? live.error ?? scripts.error ?? runs.error ?? open.error;
  if (!failure) return <main className={styles.view} aria-busy="true" />;
  return (
    <main className={styles.failed}>
      <ProblemNote problem={problemIn(failure, "Checks")} />
    </main>
  );
}

/** A column of the next run. */
interface Column extends Spoken {
  key: string;
}

function Checks({
  app,
  providers,
  live,
  scripts,
  folder,
  folderProblem,
  schedule,
  run,
  isEdited,
  check,
}: {
  app: App;
  providers: Provider[];
  live: Content;
  scripts: readonly CheckScript[];
  folder: string | null;
  folderProblem: Problem | null;
  schedule: { every: number } | null;
  run: Run | undefined;
  isEdited: boolean;
  check: string | undefined;
}) {
  const { slug } = app;
  const client = useQueryClient();
  const router = useRouter();
  const view = useRef<HTMLElement>(null);
  const [open] = useState(() => openApp(app, client));
  const draft = useStored(open.draft, (state) => state.content);
  const [extra, setExtra] = useState<readonly Column[]>([]);
  const [first, setFirst] = useState<readonly Column[]>();
  const [only, setOnly] = useState<string>();
  const [trials, setTrials] = useState(1);
  const [leavesOut, setLeavesOut] = useState(false);
  const [answers, setAnswers] = useState<Answers>("called");
  const [panel, setPanel] = useState<string>();
  const [against, setAgainst] = useState<Against>();
  const [scriptName, setScriptName] = useState(scripts[0]?.name ?? slug);
  const [line, setLine] = useState(() => (check === undefined ? undefined : lineOf(scripts, check)));
  const isEditing = line !== undefined || isEdited || scripts.length === 0;
  const current = scripts.find(({ name }) => name === scriptName);
  const script = useScript(slug, scriptName, current);
  const nameOf = useMemo(
    () => (of: string) => providers.find((each) => each.slug === of)?.name ?? "a provider that is gone",
    [providers],
  );
  const isSame = app.draftRevision === app.liveRevision;
  const usual: readonly Column[] = [
    { key: "live", base: "live", content: live, changedFrom: null },
    ...(isSame ? [] : [{ key: "draft", base: "draft" as const, content: draft, changedFrom: null }]),
  ];
  const columns = [...(first ?? usual), ...extra];
  const names = laneNames(columns, nameOf);
  const hasRubrics = useMemo(
    () =>
      scripts.some(({ text }) =>
        parseScript(text).script.checks.some((each) => rubricsIn(expectedIn(each)).length > 0),
      ),
    [scripts],
  );
  const allNames = useMemo(
    () => scripts.flatMap(({ text }) => parseScript(text).script.checks.map(({ name }) => name)),
    [scripts],
  );
  const wanted = (which: string | undefined): WantedRun => ({
    ...(which === undefined ? {} : { only: [which] }),
    columns: columns.map(({ base, content }, at) => ({ name: names[at] ?? "", base, content })),
    trials,
    leavesOutUnchanged: leavesOut,
    answers: answers === "recording" ? "called" : answers,
    records: answers === "recording",
  });
  const next = wanted(only);
  const ahead = useQuery({
    queryKey: [...keys.ahead(slug), JSON.stringify(next), scripts.map(({ hash }) => hash).join(" "), run?.endedAt],
    queryFn: () => server.send(checks.ahead, { slug, body: next }),
    staleTime: 0,
    enabled: allNames.length > 0,
    retry: false,
  });
  useEffect(() => {
    document.title = `Checks · ${app.name} · Unruly Finch`;
  }, [app.name]);
  useFocusKept(view);

  const show = (made: Run) => {
    client.setQueryData(keys.run(made.id), made);
    void client.invalidateQueries({ queryKey: keys.run(made.id) });
    void client.invalidateQueries({ queryKey: keys.runs(slug) });
    void client.invalidateQueries({ queryKey: keys.app(slug) });
    void client.invalidateQueries({ queryKey: keys.jobs });
  };
  const running = useChange("The run", async (which: string | undefined) => {
    await open.draft.save();
    if (!(await script.save())) return;
    const made = await server.send(checks.run, { slug, body: wanted(which) });
    show(made);
    setLine(undefined);
    setAgainst(undefined);
    router.replace(`/apps/${slug}/checks?run=${made.id}`);
  });
  const changing = useChange("The change", async (work: () => Promise<Run>) => show(await work()));
  const scheduling = useChange(
    "The schedule",
    (every: number | null) =>
      server.send(checks.setSchedule, { slug, body: { schedule: every === null ? null : { every, trials } } }),
    [keys.scripts(slug)],
  );
  const edit = (name: string, at: number) => {
    setScriptName(name);
    setLine(at);
  };
  const fold = () => {
    void script.save();
    setLine(undefined);
    if (isEdited || check !== undefined) router.replace(`/apps/${slug}/checks${run ? `?run=${run.id}` : ""}`);
  };
  const runAt = (at: number) => {
    const found = parseScript(script.text).script.checks.findLast((each) => each.line <= at);
    if (found) running.run(found.name);
  };
  const isUnderWay = run?.state === "running" || run?.state === "waiting";
  useKeys("checks", {
    run: () => running.run(only),
    edit: () => (isEditing ? fold() : edit(scriptName, 1)),
    find: () => router.push(`/apps/${slug}/history?find`),
    close: () => (isEditing && scripts.length > 0 ? fold() : false),
  });
  const edited = columns.find(({ key }) => key === panel);
  const setColumns = (all: readonly Column[]) => {
    setFirst(all);
    setExtra([]);
  };
  const add = () => {
    const key = String(Date.now());
    setColumns([...columns, { key, base: isSame ? "live" : "draft", content: draft, changedFrom: null }]);
    setPanel(key);
  };
  const toll = ahead.data;
  const cost =
    toll?.price === null || !toll || answers === "recorded" ? "" : `, about ${price(toll.price, toll.currency)}`;
  const problem = running.problem ?? changing.problem ?? scheduling.problem ?? folderProblem ?? undefined;
  const aheadProblem = ahead.error && !isEditing ? problemIn(ahead.error, "The run") : undefined;

  return (
    <main className={styles.view} ref={view} style={{ "--columns": run?.columns.length ?? 1 } as React.CSSProperties}>
      <h1 className="unseen">Checks of {app.name}</h1>
      <ChecksSentence
        {...{ only, trials, columns, panel, leavesOut, answers }}
        names={allNames}
        onOnly={setOnly}
        onTrials={setTrials}
        onPanel={(key) => setPanel(panel === key ? undefined : key)}
        onAdd={columns.length < mostColumns ? add : undefined}
        onLeavesOut={setLeavesOut}
        onAnswers={setAnswers}
        button={
          isUnderWay ? (
            <Button
              // it takes the place of the button that begins: the second click of two is none on this one
              onClick={({ detail }) => detail < 2 && changing.run(() => server.send(checks.stop, { id: run.id }))}
            >
              Stop it
            </Button>
          ) : (
            <Button
              type="primary"
              disabled={allNames.length === 0}
              loading={running.isRunning}
              onClick={({ detail }) => detail < 2 && running.run(only)}
            >
              {toll ? `Run ${toll.trials} ${toll.trials === 1 ? "trial" : "trials"}${cost}` : "Run them"}
            </Button>
          )
        }
      />
      <RunSummary
        {...{ slug, run, against }}
        onAgainst={setAgainst}
        onList={() => setPanel(panel === "list" ? undefined : "list")}
        isListed={panel === "list"}
        schedule={schedule?.every ?? null}
        onSchedule={scheduling.run}
        onResume={() => run && changing.run(() => server.send(checks.resume, { id: run.id }))}
      />
      {(answers !== "called" || run?.records || (run && run.answers !== "called")) && (
        <Recorded slug={slug} run={run} />
      )}
      {(hasRubrics || panel === "judges") && (
        <div className={styles.under}>
          <Action
            aria-expanded={panel === "judges"}
            data-focus="judges"
            onClick={() => setPanel(panel === "judges" ? undefined : "judges")}
          >
            who judges by rubrics
          </Action>
        </div>
      )}
      {panel === "judges" && <JudgesPanel {...{ slug, providers }} onClose={() => setPanel(undefined)} />}
      {panel === "list" && <RunList slug={slug} shown={run?.id} onClose={() => setPanel(undefined)} />}
      {edited && (
        <Panel key={edited.key} label={laneSaid(edited)} onClose={() => setPanel(undefined)}>
          <CandidateEditor
            {...{ slug, live, draft, providers, nameOf }}
            candidate={edited}
            isAsked={false}
            onChange={(candidate) =>
              setColumns(columns.map((each) => (each.key === edited.key ? { ...candidate, key: each.key } : each)))
            }
            onLeave={
              columns.length > 1
                ? () => {
                    setColumns(columns.filter(({ key }) => key !== edited.key));
                    setPanel(undefined);
                  }
                : undefined
            }
          />
        </Panel>
      )}
      {(problem ?? aheadProblem) && (
        <div className={styles.under}>
          <ProblemNote problem={(problem ?? aheadProblem) as Problem} />
        </div>
      )}
      {isEditing ? (
        <section className={styles.script} aria-label="Script">
          <ScriptBar
            {...{ slug, scripts, folder, script, scriptName }}
            onName={(name) => {
              void script.save();
              setScriptName(name);
              setLine(1);
            }}
            onFold={scripts.length > 0 ? fold : undefined}
          />
          <Suspense fallback={<div aria-busy="true" />}>
            <ScriptEditor
              key={scriptName}
              name={scriptName}
              text={script.text}
              line={line ?? 1}
              onChange={script.edit}
              onLeave={() => void script.save()}
              onRunAt={runAt}
            />
          </Suspense>
        </section>
      ) : (
        <RunSheet
          {...{ run, against, scripts, folder, nameOf }}
          onEdit={edit}
          onMore={(place, count) =>
            run &&
            changing.run(() => server.send(checks.more, { id: run.id, body: { checks: [place], trials: count } }))
          }
        />
      )}
    </main>
  );
}

function lineOf(scripts: readonly CheckScript[], name: string): number | undefined {
  for (const { text } of scripts) {
    const found = parseScript(text).script.checks.find((each) => each.name === name);
    if (found) return found.line;
  }
  return undefined;
}
