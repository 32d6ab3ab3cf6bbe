"use client";

import { useQueryClient } from "@tanstack/react-query";
import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import type { BenchSummary } from "@/contract/summaries";
import type { Forecast } from "@/core/context/forecast";
import { judgedRows } from "@/core/context/judged";
import type { Lead } from "@/core/context/lead";
import { policyOf } from "@/core/context/policies/policies";
import { partOf, tokensOfPart } from "@/core/context/reach";
import { recipeOf } from "@/core/context/sum-up";
import { textOf } from "@/core/conversation/pieces";
import { isUnderWay } from "@/core/reply/reply";
import { type Content, contentSchema } from "@/core/revision/content";
import { Action } from "../shared/Action";
import type { DocumentPlace } from "../shared/documents/DocumentSheet";
import { drawn } from "../shared/drawn";
import { Fallible } from "../shared/Fallible";
import { many } from "../shared/format";
import { useFocusKept } from "../shared/keys/use-focus-kept";
import { useKeys } from "../shared/keys/use-keys";
import { ProblemNote } from "../shared/ProblemNote";
import { useApp, useProviders } from "../shared/queries";
import { SheetFrame } from "../shared/sheet/SheetFrame";
import type { Bracket } from "../shared/sheet/SheetRow";
import { sameMembers, useStored } from "../shared/store";
import { useMakeCheck } from "../shared/use-make-check";
import { usePutLive } from "../shared/use-put-live";
import styles from "./BuildView.module.css";
import { Composer, type ComposerHandle } from "./Composer";
import { actsOn } from "./conversation/acts";
import { type AppMessage, type Conversation, isOfVisitor, underWayIn } from "./conversation/conversation";
import { type ConversationState, type ConversationStore, textName } from "./conversation/conversation-store";
import { usePlace } from "./conversation/use-place";
import { DraftNote } from "./draft/DraftNote";
import { type OpenApp, openApp } from "./open-app";
import { Preflight } from "./Preflight";
import { ConversationRows, type SummaryInSheet } from "./rows/ConversationRows";
import { OpeningRows } from "./rows/OpeningRows";
import { PromptRow } from "./rows/PromptRow";
import { SummaryRow } from "./rows/SummaryRow";
import { SignalPath } from "./SignalPath";
import { type RowScene, RowSceneProvider } from "./scene";
import { useQuestion } from "./sources/use-question";
import { prompt } from "./stations/Prompt";
import type { Station } from "./stations/station";
import { stations } from "./stations/stations";
import { useAtHand } from "./use-at-hand";
import { useForecast, useTypedReach } from "./use-forecast";

const RevisionsSheet = dynamic(() => import("../revisions/RevisionsSheet"), { ssr: false });
const DocumentSheet = dynamic(() => import("../shared/documents/DocumentSheet"), { ssr: false });

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

/** What of an open conversation the whole view shows; what is unfolded or waits in it is shown by its rows alone. */
function shownOf({ line, before, about, isRead, isBegun, ended, unreadable, failure }: ConversationState) {
  return { line, before, about, isRead, isBegun, ended, unreadable, failure };
}

function Bench({ app, providers }: { app: App; providers: Provider[] }) {
  drawn("build");
  const client = useQueryClient();
  const router = useRouter();
  const [open] = useState(() => openApp(app, client));
  const { place, startNew, wasBegun } = usePlace(app.slug);
  const conversation = useOpen(open, place.id, place.isBegun);
  const shown = useStored(conversation, shownOf, sameMembers);
  const content = useStored(open.draft, (draft) => draft.content);
  const draft = useMemo(() => ({ content, edit: open.draft.edit }), [content, open]);
  const view = useRef<HTMLElement>(null);
  const composer = useRef<ComposerHandle>(null);
  const sheet = useRef<HTMLElement>(null);
  const [station, setStation] = useState<Station | null>(null);
  const [editsPrompt, setEditsPrompt] = useState(false);
  const { atHand, firstRead } = useAtHand(conversation.id, shown, content.memory);
  const lastSaid = shown.line.findLast(({ role }) => role === "visitor");
  const findings = useQuestion({
    slug: app.slug,
    textName: textName(conversation.id),
    last: lastSaid ? textOf(lastSaid) : "",
    draft: app.draftHash,
    isWanted: (content.sources?.documents.length ?? 0) > 0,
    hasWholes: content.sources?.documents.some(({ whole }) => whole) ?? false,
  });
  const { ahead, prices } = useForecast(content, atHand, providers, findings.next.found);
  const { reach, onReach } = useTypedReach(ahead);
  const rows = useMemo(() => judgedRows(reach, firstRead), [reach, firstRead]);
  const [panel, setPanel] = useState<"ledger" | "again">();
  const [showsRevisions, setShowsRevisions] = useState(false);
  const [openedDocument, setDocument] = useState<DocumentPlace>();
  const [hasFigures, setFigures] = useState(false);
  const { line } = shown;
  const last = line.at(-1);
  const lastReply = last?.role === "app" ? last : undefined;
  const live = usePutLive(app.slug, open.draft.putLive);
  const putLive = live.run;
  useFocusKept(view);

  useEffect(() => {
    if (shown.isBegun) wasBegun(conversation.id);
  }, [shown.isBegun, wasBegun, conversation]);
  useEffect(() => {
    // what could not be stored before is tried again now, and what was edited is stored when the view is left
    void open.draft.keep();
    return () => void open.draft.keep();
  }, [open]);
  useEffect(() => {
    document.title = `${app.name} · Unruly Finch`;
  }, [app.name]);

  const acts = useMemo(() => actsOn(conversation, open.draft), [conversation, open]);
  const making = useMakeCheck(app.slug, conversation.id);
  const makeCheck = making.run;
  const rowScene = useMemo(
    (): RowScene => ({
      app: app.name,
      slug: app.slug,
      draft: open.draft,
      conversation,
      acts,
      hasFigures,
      openDocument: setDocument,
      makeCheck,
    }),
    [app.name, app.slug, open, conversation, acts, hasFigures, makeCheck],
  );
  const begin = () => {
    startNew();
    composer.current?.focus();
  };
  const canSayAgain = shown.isBegun && line.length > 0;
  useKeys("build", {
    station: (at) => setStation((before) => (before === stations[at] ? null : (stations[at] ?? null))),
    new: begin,
    above: () => focusFork(sheet.current, -1),
    below: () => focusFork(sheet.current, 1),
    again: () => canSayAgain && setPanel(panel === "again" ? undefined : "again"),
    take: () => void (lastReply?.parent && acts.again(lastReply.parent)),
    check: () => (shown.isBegun ? making.run(undefined) : false),
    find: () => router.push(`/apps/${app.slug}/history?find`),
    close: () => conversation.stop(),
  });

  const nameOf = (slug: string) => providers.find((each) => each.slug === slug)?.name ?? "a provider that is gone";
  const summary = summaryIn(reach, shown, (stored, bracket) => (
    <SummaryRow
      summary={stored}
      {...bracket}
      part={reach.summary}
      next={shown.about?.summarising ?? null}
      isStale={stored !== undefined && !stored.isCorrected && stored.recipe !== recipeOf(content)}
    />
  ));
  const opening = partOf(reach, "opening");
  const onShowRevisions = () => setShowsRevisions(true);
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
    findings,
    onOpenDocument: setDocument,
  };

  return (
    <main className={styles.view} ref={view}>
      <h1 className="unseen">Build {app.name}</h1>
      <SignalPath scene={scene} open={station} onOpen={setStation} />
      <Preflight app={app} />
      {showsRevisions && (
        <Fallible what="the revisions">
          <RevisionsSheet
            {...{ app, nameOf }}
            draft={content}
            onPutLive={putLive}
            onGoBack={(earlier) => {
              draft.edit(asChange(earlier));
              setShowsRevisions(false);
            }}
            onClose={() => setShowsRevisions(false)}
          />
        </Fallible>
      )}
      {openedDocument && (
        <Fallible what="the document">
          <DocumentSheet place={openedDocument} draft={app.draftHash} onClose={() => setDocument(undefined)} />
        </Fallible>
      )}
      <SheetFrame
        isHidden={showsRevisions || openedDocument !== undefined}
        hasFigures={hasFigures}
        ref={sheet}
        end={last?.id ?? conversation.id}
      >
        <RowSceneProvider value={rowScene}>
          <Fallible what="the system prompt">
            <PromptRow
              {...{ app, draft, nameOf, onShowRevisions }}
              putLive={() => putLive(undefined)}
              tokens={tokensOfPart(ahead, "prompt")}
              window={ahead.room.window}
              carried={content.prompt.trim() !== ""}
              first
              last={!(opening ? opening.carried : rows[0]?.carried)}
              isEdited={editsPrompt}
              onEdit={setEditsPrompt}
            />
          </Fallible>
          <OpeningRows
            opening={content.opening}
            part={opening}
            app={app.name}
            last={!rows[0]?.carried}
            onEdit={() => setStation(prompt)}
          />
          {shown.before !== null && (
            <div className={styles.earlier}>
              <Action onClick={() => void conversation.readEarlier()}>show earlier turns</Action>{" "}
              {many((line[0]?.turn ?? 1) - 1, "turn")} above
            </div>
          )}
          {shown.unreadable && <ProblemNote problem={shown.unreadable} />}
          <ConversationRows line={line} rows={rows} summary={summary} />
          {shown.isRead && line.length === 0 && (
            <p className={styles.empty}>
              No turns yet: the first message begins a conversation. Nothing of other conversations is carried into it.
            </p>
          )}
        </RowSceneProvider>
      </SheetFrame>
      <Spoken last={lastReply} />
      <Composer
        // each conversation has its own: what is typed in one is never sent in another
        key={conversation.id}
        ref={composer}
        conversation={conversation}
        sentName={`finch.sent.${app.slug}`}
        content={content}
        ahead={ahead}
        prices={prices}
        spent={shown.about?.price ?? undefined}
        onReach={onReach}
        onMend={draft.edit}
        before={leadBefore(line, ahead)}
        excerptOf={(id) => excerptIn(line, id)}
        isArriving={underWayIn(shown) !== undefined}
        panel={panel}
        onPanel={(next) => setPanel(panel === next ? undefined : next)}
        onNew={shown.isBegun ? begin : undefined}
        canSayAgain={canSayAgain}
        prepare={open.draft.save}
      >
        {live.note}
        {making.problem && <ProblemNote problem={making.problem} />}
        {shown.failure && <ProblemNote problem={shown.failure} />}
        {isOfVisitor(shown) && <VisitorNote isApart={shown.about?.isApart ?? false} />}
        <DraftNote draft={open.draft} nameOf={nameOf} />
      </Composer>
    </main>
  );
}

/** The conversation of an id, which stays open for as long as it is shown. */
function useOpen(open: OpenApp, id: string, isBegun: boolean): ConversationStore {
  // biome-ignore lint/correctness/useExhaustiveDependencies: one that was begun here stays the one that it was
  const conversation = useMemo(() => open.at(id, isBegun), [open, id]);
  useEffect(() => open.show(id), [open, id]);
  return conversation;
}

/** Tells those who hear the page that a reply has ended that was seen under way, once. */
function Spoken({ last }: { last: AppMessage | undefined }) {
  const seen = useRef<string>(undefined);
  const [said, setSaid] = useState("");
  const isArriving = last !== undefined && isUnderWay(last.state);
  const { id, turn = 0, state } = last ?? {};
  useEffect(() => {
    if (isArriving) seen.current = id;
    else if (id !== undefined && id === seen.current) {
      seen.current = undefined;
      setSaid(`The reply of turn ${turn} is ${state}.`);
    }
  }, [isArriving, id, turn, state]);
  return (
    <p className="unseen" role="status">
      {said}
    </p>
  );
}

function VisitorNote({ isApart }: { isApart: boolean }) {
  return (
    <p className={styles.apart}>
      {isApart
        ? "This is the bench's own line: the visitor goes on from another one, and sees nothing of this."
        : "This is a visitor's conversation: what you send begins a line of the bench in it, and the visitor sees nothing of it."}
    </p>
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
  { about }: Pick<Conversation, "about">,
  row: (summary: BenchSummary | undefined, bracket: Pick<Bracket, "first" | "last">) => ReactNode,
): SummaryInSheet | undefined {
  const inFull = policyOf(track.memory).inFull?.(track.memory);
  if (inFull === undefined) return undefined;
  const stored = summary ? about?.summaries.find(({ id }) => id === summary.id) : undefined;
  const oldest = track.turns.at(-inFull);
  const isOlder = track.turns.length > inFull || above.fate !== "none";
  if (!stored && !isOlder && !about?.summarising) return undefined;
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
const longestExcerpt = 90;

function excerptIn(line: readonly LineMessage[], id: string): string | undefined {
  const message = line.find((each) => each.id === id);
  const text = message && textOf(message).replace(/\s+/g, " ");
  return text && text.length > longestExcerpt ? `${text.slice(0, longestExcerpt)}…` : text;
}

/** Brings the focus to the next place above or below where there is something to choose. */
function focusFork(sheet: HTMLElement | null, steps: -1 | 1): void {
  const places = [...(sheet?.querySelectorAll<HTMLElement>("[data-siblings]") ?? [])];
  const at = places.findIndex((place) => place.contains(document.activeElement));
  const next = at < 0 ? (steps < 0 ? places.at(-1) : places[0]) : places[at + steps];
  next?.querySelector<HTMLElement>("[aria-current=true]")?.focus();
}
