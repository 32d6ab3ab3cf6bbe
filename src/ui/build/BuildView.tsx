"use client";

import dynamic from "next/dynamic";
import { useRouter } from "next/navigation";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { App } from "@/contract/apps";
import type { LineMessage } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import { Fallible } from "../shared/Fallible";
import { many } from "../shared/format";
import { SayAgainWords } from "../shared/jobs/SayAgainWords";
import { ProblemNote } from "../shared/ProblemNote";
import { useApp, useProviders } from "../shared/queries";
import { wordsFor } from "../shared/reasons";
import styles from "./BuildView.module.css";
import { Composer, type ComposerHandle } from "./Composer";
import { KeyList } from "./KeyList";
import { Preflight } from "./Preflight";
import { ReplyRow, type RowActions, VisitorRow } from "./rows/MessageRows";
import { PromptRow } from "./rows/PromptRow";
import rowStyles from "./rows/Row.module.css";
import { SiblingsBeside } from "./rows/SiblingsBeside";
import { Sheet } from "./Sheet";
import { SignalPath } from "./SignalPath";
import type { Station } from "./stations/station";
import { stations } from "./stations/stations";
import { useAsking } from "./use-asking";
import { useBranches } from "./use-branches";
import { useConversation } from "./use-conversation";
import { useDraft } from "./use-draft";
import { useForecast } from "./use-forecast";
import { useKeys } from "./use-keys";

const DispatchSheet = dynamic(() => import("../dispatch/DispatchSheet"), { ssr: false });

/** The heart of the bench: an app as it is made, and a conversation with it. */
export function BuildView({ slug, conversation }: { slug: string; conversation: string | null }) {
  const app = useApp(slug);
  const providers = useProviders();
  if (app.data && providers.data)
    return <Bench key={slug} app={app.data} providers={providers.data.providers} conversation={conversation} />;
  const failure = app.error ?? providers.error;
  if (!failure) return <main className={styles.view} aria-busy="true" />;
  return (
    <main className={styles.failed}>
      <ProblemNote problem={failure.problem} />
    </main>
  );
}

function Bench({ app, providers, conversation }: { app: App; providers: Provider[]; conversation: string | null }) {
  const router = useRouter();
  const draft = useDraft(app);
  const open = useConversation(conversation);
  const composer = useRef<ComposerHandle>(null);
  const sheet = useRef<HTMLElement>(null);
  const [station, setStation] = useState<Station | null>(null);
  const [editsPrompt, setEditsPrompt] = useState(false);
  const [inspected, setInspected] = useState<string>();
  const { ahead, prices } = useForecast(draft.content, open.line, providers, open.clear);
  const branches = useBranches(conversation);
  const [beside, setBeside] = useState<string>();
  const [isAgain, setAgain] = useState(false);
  const last = open.line.at(-1);
  const lastReply = last?.role === "app" ? last : undefined;

  const show = useCallback(
    (id: string | null) => router.replace(`/apps/${app.slug}/build?conversation=${id ?? "new"}`, { scroll: false }),
    [app.slug, router],
  );
  const { ask, stop, putLive, failure, begunHere } = useAsking(app.slug, draft, conversation, show);
  const send = useCallback(
    (text: string) => ask({ message: text, ...(conversation === null ? {} : { conversation }) }),
    [ask, conversation],
  );

  const limit = draft.content.settings.maxOutput;
  const { show: showLine, name, remove, write, setClear } = branches;
  const actions: RowActions = useMemo(
    () => ({
      stop,
      goOn: (reply) => void ask({ goOn: reply }),
      again: (message, { count, by } = { count: 1, by: undefined }) =>
        void ask({ again: message, ...(count > 1 ? { count } : {}), ...(by ? { with: by } : {}) }),
      change: ({ parent }, text) => ask({ message: text, conversation: conversation ?? undefined, after: parent }),
      write,
      show: (message) => void showLine(message),
      name: (message, next) => void name(message, next),
      remove: (message) => void remove(message),
      clear: (reply) => void setClear(reply, true),
      beside: (message) => setBeside((before) => (before === message ? undefined : message)),
      inspect: (reply) => setInspected((before) => (before === reply ? undefined : reply)),
      raiseLimit: () => {
        if (limit !== undefined) draft.edit({ settings: { ...draft.content.settings, maxOutput: limit * 2 } });
      },
    }),
    [ask, conversation, draft.content.settings, draft.edit, limit, stop, showLine, name, remove, write, setClear],
  );

  const startNew = () => {
    show(null);
    composer.current?.focus();
  };
  const keyList = useKeys({
    stations: (at) => setStation((before) => (before === stations[at] ? null : (stations[at] ?? null))),
    escape: () => {
      if (open.underWay) stop(open.underWay.id);
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

  const scene = { app, draft, providers, ahead, last: lastReply, onEditPrompt: () => setEditsPrompt(true) };

  return (
    <main className={styles.view}>
      <h1 className="unseen">Build {app.name}</h1>
      <SignalPath scene={scene} open={station} onOpen={setStation} />
      <Preflight app={app} />
      <Sheet ref={sheet} end={last?.id ?? conversation ?? "new"}>
        <Fallible what="the system prompt">
          <PromptRow
            {...{ app, draft, putLive }}
            nameOf={(slug) => providers.find((each) => each.slug === slug)?.name ?? "a provider that is gone"}
            tokens={ahead.prompt}
            carried={draft.content.prompt.trim() !== ""}
            first
            last={!ahead.rows[0]?.carried}
            isEdited={editsPrompt}
            onEdit={setEditsPrompt}
          />
        </Fallible>
        {open.readEarlier && (
          <div className={styles.earlier}>
            <button type="button" className="link" onClick={open.readEarlier}>
              show earlier turns
            </button>{" "}
            {many((open.line[0]?.turn ?? 1) - 1, "turn")} above
          </div>
        )}
        {open.error && <ProblemNote problem={open.error.problem} />}
        {ahead.rows.map(({ tokens, carried, reason }, at) => {
          const message = open.line[at] as LineMessage;
          const bracket = {
            carried,
            first: !(ahead.rows[at - 1]?.carried ?? true),
            last: !ahead.rows[at + 1]?.carried,
          };
          return (
            <Fallible key={message.id} what="this row">
              {message.role === "visitor" ? (
                <VisitorRow
                  message={message}
                  tokens={tokens}
                  {...bracket}
                  isBeside={beside === message.id}
                  actions={actions}
                  why={carried ? undefined : wordsFor(reason)}
                />
              ) : (
                <ReplyRow
                  message={message}
                  tokens={tokens}
                  app={app.name}
                  {...bracket}
                  isLast={message.id === last?.id}
                  isInspected={message.id === inspected}
                  isBeside={beside === message.id}
                  providers={providers}
                  {...{ limit, actions }}
                />
              )}
              {message.id === beside && message.siblings.length > 1 && (
                <Fallible what="them side by side">
                  <SiblingsBeside message={message} conversation={conversation ?? ""} />
                </Fallible>
              )}
              {message.isCleared && (
                <div className={rowStyles.clear} role="note">
                  Cleared: nothing above is carried.
                  <button type="button" className="link" onClick={() => void setClear(message.id, false)}>
                    take it away
                  </button>
                </div>
              )}
              {message.id === inspected && (
                <Fallible what="the dispatch">
                  <DispatchSheet reply={inspected} onFold={() => setInspected(undefined)} />
                </Fallible>
              )}
            </Fallible>
          );
        })}
        {open.isRead && open.line.length === 0 && (
          <p className={styles.empty}>
            No turns yet: the first message begins a conversation. Nothing of other conversations is carried into it.
          </p>
        )}
      </Sheet>
      <Composer
        ref={composer}
        name={`finch.composer.${app.slug}.${conversation ?? "new"}`}
        sentName={`finch.sent.${app.slug}`}
        isBegunHere={conversation !== null && begunHere === conversation}
        content={draft.content}
        ahead={ahead}
        prices={prices}
        isArriving={open.underWay !== undefined}
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
        {open.isApart && (
          <p className={styles.apart}>
            This is the bench's own line: the visitor goes on from another one, and sees nothing of this.
          </p>
        )}
        {draft.failure && (
          <ProblemNote problem={draft.failure}>
            <button type="button" className="link" onClick={() => void draft.retry()}>
              store it again
            </button>
          </ProblemNote>
        )}
      </Composer>
      <KeyList {...keyList} />
    </main>
  );
}

/** Brings the focus to the next place above or below where there is something to choose. */
function focusFork(sheet: HTMLElement | null, steps: -1 | 1): void {
  const places = [...(sheet?.querySelectorAll<HTMLElement>("[data-siblings]") ?? [])];
  const at = places.findIndex((place) => place.contains(document.activeElement));
  const next = at < 0 ? (steps < 0 ? places.at(-1) : places[0]) : places[at + steps];
  next?.querySelector<HTMLElement>("[aria-current=true]")?.focus();
}
