"use client";

import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import type { MessageCall } from "@/contract/replies";
import type { BenchSummary } from "@/contract/summaries";
import type { Forecast } from "@/core/context/forecast";
import { judgedRows } from "@/core/context/judged";
import type { Lead } from "@/core/context/lead";
import { policyOf } from "@/core/context/policies/policies";
import { partOf, tokensOfPart } from "@/core/context/reach";
import { recipeOf } from "@/core/context/sum-up";
import { type Piece, textOf } from "@/core/conversation/pieces";
import { type Content, contentSchema } from "@/core/revision/content";
import { RevisionsSheet } from "../revisions/RevisionsSheet";
import { Fallible } from "../shared/Fallible";
import { many } from "../shared/format";
import { SayAgainWords } from "../shared/jobs/SayAgainWords";
import { ProblemNote } from "../shared/ProblemNote";
import { useApp, useProviders } from "../shared/queries";
import styles from "./BuildView.module.css";
import { Composer, type ComposerHandle } from "./Composer";
import { KeyList } from "./KeyList";
import { Preflight } from "./Preflight";
import { ConversationRows, type SummaryPlace } from "./rows/ConversationRows";
import { OpeningRows } from "./rows/OpeningRows";
import { PromptRow } from "./rows/PromptRow";
import type { Bracket } from "./rows/Row";
import type { RowActions } from "./rows/row-actions";
import { SummaryRow } from "./rows/SummaryRow";
import { Sheet } from "./Sheet";
import { SignalPath } from "./SignalPath";
import { prompt } from "./stations/Prompt";
import type { Station } from "./stations/station";
import { stations } from "./stations/stations";
import { useAsking } from "./use-asking";
import { useAtHand } from "./use-at-hand";
import { useBranches } from "./use-branches";
import { type OpenConversation, useConversation } from "./use-conversation";
import { useDraft } from "./use-draft";
import { useForecast, useTypedReach } from "./use-forecast";
import { useKeys } from "./use-keys";
import { usePlace } from "./use-place";
import { textName, useSending } from "./use-sending";
import { useSummaries } from "./use-summaries";

/** The heart of the bench: an app as it is made, and a conversation with it. */
export function BuildView({ slug }: { slug: string }) {
  const app = useApp(slug);
  const providers = useProviders();
  if (app.data && providers.data) return <Bench key={slug} app={app.data} providers={providers.data.providers} />;
  const failure = app.error ?? providers.error;
  if (!failure) return <main className={styles.view} aria-busy="true" />;
  return (
    <main className={styles.failed}>
      <ProblemNote problem={failure.problem} />
    </main>
  );
}

function Bench({ app, providers }: { app: App; providers: Provider[] }) {
  const { conversation, go } = usePlace();
  const draft = useDraft(app);
  const open = useConversation(conversation);
  const composer = useRef<ComposerHandle>(null);
  const sheet = useRef<HTMLElement>(null);
  const [station, setStation] = useState<Station | null>(null);
  const [editsPrompt, setEditsPrompt] = useState(false);
  const [inspected, setInspected] = useState<string>();
  const { atHand, firstRead } = useAtHand(conversation, open, draft.content.memory);
  const { ahead, prices } = useForecast(draft.content, atHand, providers);
  const { reach, onReach } = useTypedReach(ahead);
  const rows = useMemo(() => judgedRows(reach, firstRead), [reach, firstRead]);
  const branches = useBranches(conversation);
  const summaryActions = useSummaries(conversation, draft.save);
  const [beside, setBeside] = useState<string>();
  const [isAgain, setAgain] = useState(false);
  const [showsRevisions, setShowsRevisions] = useState(false);
  const [hasFigures, setFigures] = useState(false);
  const last = open.line.at(-1);
  const lastReply = last?.role === "app" ? last : undefined;

  const { ask, stop, putLive, failure } = useAsking(app.slug, draft);
  const { send, waits, onWait, startNew: beginAnew } = useSending(app.slug, conversation, go, ask);

  const nameOf = (slug: string) => providers.find((each) => each.slug === slug)?.name ?? "a provider that is gone";
  const limit = draft.content.settings.maxOutput;
  const { show: showLine, name, remove, write, setClear, setPin } = branches;
  const actions: RowActions = useMemo(
    () => ({
      stop,
      goOn: (reply) => void ask({ goOn: reply }),
      again: (message, { count, by } = { count: 1, by: undefined }) =>
        void ask({ again: message, ...(count > 1 ? { count } : {}), ...(by ? { with: by } : {}) }),
      change: async ({ parent, pieces }, text) =>
        (await ask({ message: withPictures(pieces, text), conversation: conversation ?? undefined, after: parent })) !==
        undefined,
      write,
      show: (message) => void showLine(message),
      name: (message, next) => void name(message, next),
      remove: (message) => void remove(message),
      clear: (reply, isClear, by) => void setClear(reply, isClear, by),
      pin: (message, isPin) => void setPin(message, isPin),
      beside: (message) => setBeside((before) => (before === message ? undefined : message)),
      inspect: (reply) => setInspected((before) => (before === reply ? undefined : reply)),
      raiseLimit: () => {
        if (limit !== undefined) draft.edit({ settings: { ...draft.content.settings, maxOutput: limit * 2 } });
      },
    }),
    [
      ask,
      conversation,
      draft.content.settings,
      draft.edit,
      limit,
      stop,
      showLine,
      name,
      remove,
      write,
      setClear,
      setPin,
    ],
  );

  const summaryPlace = summaryIn(reach, open, (summary, bracket) => (
    <SummaryRow
      {...{ summary, ...bracket }}
      part={reach.summary}
      next={open.summarising}
      isStale={summary !== undefined && !summary.isCorrected && summary.recipe !== recipeOf(draft.content)}
      isInspected={summary !== undefined && inspected === summary.id}
      actions={{ ...summaryActions, inspect: actions.inspect }}
    />
  ));
  const opening = partOf(reach, "opening");
  const onShowRevisions = () => setShowsRevisions(true);
  const startNew = () => {
    beginAnew();
    composer.current?.focus();
  };
  const keyList = useKeys({
    stations: (at) => setStation((before) => (before === stations[at] ? null : (stations[at] ?? null))),
    escape: () => {
      if (open.underWay) stop(open.underWay.id);
      else if (showsRevisions) setShowsRevisions(false);
      else if (station) setStation(null);
      else setInspected(undefined);
    },
    startNew,
    toFork: (steps) => focusFork(sheet.current, steps),
    sayAgain: () => setAgain(conversation !== null && !isAgain),
    another: () => lastReply?.parent && actions.again(lastReply.parent),
  });

  useEffect(() => {
    document.title = `${app.name} · Unruly Finch`;
  }, [app.name]);

  const scene = {
    app,
    draft,
    providers,
    ahead,
    last: lastReply,
    onEditPrompt: () => setEditsPrompt(true),
    onShowRevisions,
    hasFigures,
    onFigures: () => setFigures(!hasFigures),
  };

  return (
    <main className={styles.view}>
      <h1 className="unseen">Build {app.name}</h1>
      <SignalPath scene={scene} open={station} onOpen={setStation} />
      <Preflight app={app} />
      {showsRevisions && (
        <Fallible what="the revisions">
          <RevisionsSheet
            {...{ app, nameOf }}
            draft={draft.content}
            onPutLive={putLive}
            onGoBack={(content) => {
              draft.edit(asChange(content));
              setShowsRevisions(false);
            }}
            onClose={() => setShowsRevisions(false)}
          />
        </Fallible>
      )}
      <Sheet isHidden={showsRevisions} hasFigures={hasFigures} ref={sheet} end={last?.id ?? conversation ?? "new"}>
        <Fallible what="the system prompt">
          <PromptRow
            {...{ app, draft, putLive, nameOf, onShowRevisions }}
            tokens={tokensOfPart(ahead, "prompt")}
            window={ahead.room.window}
            carried={draft.content.prompt.trim() !== ""}
            first
            last={!(opening ? opening.carried : rows[0]?.carried)}
            isEdited={editsPrompt}
            onEdit={setEditsPrompt}
          />
        </Fallible>
        <OpeningRows
          opening={draft.content.opening}
          part={opening}
          app={app.name}
          last={!rows[0]?.carried}
          onEdit={() => setStation(prompt)}
        />
        {open.readEarlier && (
          <div className={styles.earlier}>
            <button type="button" className="link" onClick={open.readEarlier}>
              show earlier turns
            </button>{" "}
            {many((open.line[0]?.turn ?? 1) - 1, "turn")} above
          </div>
        )}
        {open.error && <ProblemNote problem={open.error.problem} />}
        <ConversationRows
          conversation={conversation}
          line={open.line}
          rows={rows}
          summary={summaryPlace}
          app={app.name}
          apart={draft.content.memory.apart ? reach.track.by : undefined}
          {...{ providers, limit, hasFigures, beside, inspected, actions }}
        />
        {open.isRead && open.line.length === 0 && (
          <p className={styles.empty}>
            No turns yet: the first message begins a conversation. Nothing of other conversations is carried into it.
          </p>
        )}
      </Sheet>
      <Composer
        ref={composer}
        name={textName(app.slug, conversation)}
        sentName={`finch.sent.${app.slug}`}
        content={draft.content}
        ahead={ahead}
        prices={prices}
        spent={open.spent}
        onReach={onReach}
        onMend={draft.edit}
        before={leadBefore(open.line, ahead)}
        excerptOf={(id) => excerptIn(open.line, id)}
        isArriving={open.underWay !== undefined}
        waits={waits}
        onWait={onWait}
        onSend={send}
        onStop={() => open.underWay && stop(open.underWay.id)}
        onNew={conversation === null ? undefined : startNew}
        onAgain={conversation === null || open.line.length === 0 ? undefined : () => setAgain(!isAgain)}
        failure={failure ?? branches.failure}
      >
        {isAgain && conversation !== null && (
          <div className={styles.again}>
            <SayAgainWords conversation={conversation} prepare={draft.save} onClose={() => setAgain(false)} />
          </div>
        )}
        {open.isOfVisitor && !open.isApart && (
          <p className={styles.apart}>
            This is a visitor's conversation: what you send begins a line of the bench in it, and the visitor sees
            nothing of it.
          </p>
        )}
        {open.isApart && (
          <p className={styles.apart}>
            This is the bench's own line: the visitor goes on from another one, and sees nothing of this.
          </p>
        )}
        {draft.failure && (
          <ProblemNote problem={draft.failure}>
            {draft.choose ? (
              <>
                <button type="button" className="link" onClick={() => void draft.choose?.("mine")}>
                  keep mine
                </button>
                <button type="button" className="link" onClick={() => void draft.choose?.("theirs")}>
                  take the other
                </button>
              </>
            ) : (
              <button type="button" className="link" onClick={() => void draft.retry()}>
                store it again
              </button>
            )}
          </ProblemNote>
        )}
      </Composer>
      <KeyList {...keyList} />
    </main>
  );
}

/** What a content says that sets nothing. */
const nothingSet = Object.fromEntries(Object.keys(contentSchema.shape).map((name) => [name, undefined]));

/** Content as a change of any other: what it does not set is set no more. */
function asChange(content: Content): Content {
  return { ...nothingSet, ...content };
}

/** Where the summary stands in the sheet, or what is to be said in its place; undefined where the memory carries none. */
function summaryIn(
  { track, summary, above }: Forecast,
  { summaries, summarising }: OpenConversation,
  row: (summary: BenchSummary | undefined, bracket: Pick<Bracket, "first" | "last">) => ReactNode,
): SummaryPlace | undefined {
  const inFull = policyOf(track.memory).inFull?.(track.memory);
  if (inFull === undefined) return undefined;
  const stored = summary ? summaries.find(({ id }) => id === summary.id) : undefined;
  const oldest = track.turns.at(-inFull);
  const isOlder = track.turns.length > inFull || above.fate !== "none";
  if (!stored && !isOlder && !summarising) return undefined;
  return {
    upTo: stored?.turn ?? (oldest?.number ?? 1) - 1,
    isCarried: stored !== undefined && summary?.carried === true,
    row: (bracket) => row(stored, bracket),
  };
}

/** What stands for the beginning of what the model that is to answer was sent last. */
function leadBefore(line: readonly LineMessage[], { track: { by } }: Forecast): Lead | undefined {
  const last = line.findLast(
    (message) => message.role === "app" && message.facts.provider === by.provider && message.facts.model === by.model,
  );
  return last?.role === "app" ? last.facts.lead : undefined;
}

/** Characters of a message that stand for it. */
const shown = 90;

function excerptIn(line: readonly LineMessage[], id: string): string | undefined {
  const message = line.find((each) => each.id === id);
  const text = message && textOf(message).replace(/\s+/g, " ");
  return text && text.length > shown ? `${text.slice(0, shown)}…` : text;
}

/** Brings the focus to the next place above or below where there is something to choose. */
function focusFork(sheet: HTMLElement | null, steps: -1 | 1): void {
  const places = [...(sheet?.querySelectorAll<HTMLElement>("[data-siblings]") ?? [])];
  const at = places.findIndex((place) => place.contains(document.activeElement));
  const next = at < 0 ? (steps < 0 ? places.at(-1) : places[0]) : places[at + steps];
  next?.querySelector<HTMLElement>("[aria-current=true]")?.focus();
}

/** A message said in another way: its pictures stay as they are. */
function withPictures(pieces: readonly Piece[], text: string): MessageCall["message"] {
  const pictures = pieces.filter((piece) => piece.kind === "picture");
  if (pictures.length === 0) return text;
  const words = text.trim() === "" ? [] : [{ kind: "text" as const, text }];
  return [...pictures.map(({ file }) => ({ kind: "picture" as const, file })), ...words];
}
