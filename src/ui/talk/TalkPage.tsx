"use client";

import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { titleOfPage, wordsForFailure } from "@/core/look/words";
import type { TakenDocuments } from "@/core/serving/sent";
import { empty, openTalk, type Talk, type TalkState } from "@/module/talk";
import { useFollowing } from "../shared/use-following";
import { Avatar } from "./Avatar";
import type { Asks } from "./asks";
import { Composer } from "./Composer";
import { Conversations } from "./Conversations";
import type { Dress } from "./dress";
import { FirstForm } from "./FirstForm";
import { Row } from "./Row";
import { nothing, type Unsaid, unsaidIn } from "./unsaid";
import { useSite, useTelling } from "./use-frame";

interface Props {
  app: { slug: string; name: string };
  look: Dress;
  /** What shows that this is our page, until a moment in epoch milliseconds. */
  badge: { badge: string; until: number };
  /** What the app has to know of a visitor, as far as the address does not give it. */
  asks: Asks;
  /** The pictures that a message may have, and the bytes of one; null where it may have none. */
  pictures: { most: number; largest: number } | null;
  /** The documents that a visitor may have; null where it may have none. */
  documents: TakenDocuments | null;
  /** Whether the preview answers. */
  isPreview: boolean;
  /** A state that is only looked at: nothing is called. */
  sample: TalkState | null;
}

/** The visitors' page of an app: one conversation, and the list of those that there are. */
export function TalkPage({ app, look, badge, asks, pictures, documents, isPreview, sample }: Props) {
  const { values, missing, isKnown, give } = useAsked(app.slug, asks);
  const canBegin = sample !== null || (isKnown && missing.length === 0);
  const site = useSite();
  const { talk, state, lost } = useTalk(app.slug, badge, values, site.identity, isPreview, canBegin, sample);
  const [isListing, setListing] = useState(false);
  const opener = useRef<HTMLButtonElement>(null);
  const { messages } = state;
  const last = messages.at(-1);
  const { frame, content, onScroll, isAway, toEnd } = useFollowing<HTMLElement, HTMLDivElement>(
    messages.findLast(({ role }) => role === "visitor")?.id ?? "",
  );
  useTelling(site.isThere, state, content);
  const title = titleOfPage(look, app.name);
  const isUnderWay = state.state !== "ready";
  const canAsk = talk !== null || sample !== null;
  return (
    <div className="talk">
      <header className="talk-head">
        {look.picture && <img className="talk-picture" src={look.picture} alt="" />}
        <div className="talk-heading">
          <h1 className="talk-title">{title}</h1>
          {look.subtitle && <p className="talk-subtitle">{look.subtitle}</p>}
        </div>
        {look.shows.conversations && (
          <button
            type="button"
            className="talk-word"
            disabled={!canAsk}
            ref={opener}
            aria-expanded={isListing}
            onKeyDown={(event) => {
              if (event.key === "Escape") setListing(false);
            }}
            onClick={() => setListing((before) => !before)}
          >
            Conversations
          </button>
        )}
        {(messages.length > 0 || state.conversation) && (
          <button type="button" className="talk-word" onClick={() => talk?.begin()}>
            New
          </button>
        )}
        {site.close && (
          <button type="button" className="talk-word" onClick={site.close}>
            Close
          </button>
        )}
        {isPreview && <p className="talk-preview">Preview: this is not what visitors get yet.</p>}
      </header>
      {isListing && talk && (
        <Conversations
          talk={talk}
          look={look}
          current={state.conversation}
          close={() => {
            setListing(false);
            opener.current?.focus();
          }}
        />
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <main className="talk-line" ref={frame} onScroll={onScroll} tabIndex={0} aria-label="Conversation">
        <div ref={content}>
          {state.hasEarlier && (
            <button type="button" className="talk-word" onClick={() => talk?.earlier()}>
              Earlier messages
            </button>
          )}
          {isKnown && !canBegin && <FirstForm names={missing} begin={give} />}
          {messages.length === 0 && canBegin && (
            <Beginning look={look} title={title} canAsk={canAsk} ask={(text) => talk?.say(text)} />
          )}
          {messages.map((said) => (
            <Row
              key={said.id}
              said={said}
              look={look}
              talk={talk}
              title={title}
              isLast={said === last}
              isReady={!isUnderWay}
              retry={() => talk?.retry()}
              again={() => talk?.again()}
              show={(message) => void talk?.show(message)}
              rate={(reply, rating) => void talk?.rate(reply, rating)}
              goOn={() => talk?.goOn()}
              allow={(call, isAllowed) => void talk?.allow(call, isAllowed)}
            />
          ))}
          {state.state === "away" && (
            <p className="talk-away" role="status">
              The connection was lost. The answer goes on when it is back.
            </p>
          )}
          {state.failure && (
            <p className="talk-failure" role="alert">
              {wordsForFailure(look, state.failure.kind)}
            </p>
          )}
        </div>
      </main>
      {isAway && (
        <button type="button" className="talk-to-end" onClick={toEnd}>
          ↓ to the end
        </button>
      )}
      <footer className="talk-foot">
        <Spoken state={state} title={title} />
        {canBegin && (
          <Composer
            look={look}
            isUnderWay={isUnderWay}
            canStop={state.state === "waiting" || state.state === "arriving"}
            lost={lost}
            keptAs={sample ? null : `finch draft ${app.slug}`}
            takes={pictures}
            documents={documents}
            talk={talk}
            say={(text, beside) => talk?.say(text, beside) ?? Promise.resolve(false)}
            stop={() => talk?.stop()}
          />
        )}
        {look.smallPrint && <p className="talk-small">{look.smallPrint}</p>}
      </footer>
    </div>
  );
}

/** The conversation of this page, as it stands; a sample stands still. */
function useTalk(
  slug: string,
  { badge, until }: Props["badge"],
  variables: Record<string, string> | undefined,
  identity: string | null,
  isPreview: boolean,
  canBegin: boolean,
  sample: TalkState | null,
): { talk: Talk | null; state: TalkState; lost: Unsaid } {
  const [talk, setTalk] = useState<Talk | null>(null);
  const [lost, setLost] = useState(nothing);
  useEffect(() => {
    if (sample || !canBegin) return;
    const opened = openTalk({
      app: `/api/apps/${slug}`,
      variables,
      token: identity ?? undefined,
      badge: { of: isInFrameOfOthers() ? "frame" : "page", badge, until },
      keep: isPreview ? undefined : storage(),
      with: isPreview ? { preview: true } : undefined,
    });
    setTalk(opened);
    void opened.open().then(() => setLost(unsaid(slug, opened.state)));
    return () => opened.close();
  }, [slug, badge, until, variables, identity, isPreview, canBegin, sample]);
  const still = sample ?? empty;
  const state = useSyncExternalStore(
    (changed) => talk?.watch(changed) ?? (() => {}),
    () => talk?.state ?? still,
    () => still,
  );
  const said = state.messages.findLast(({ role }) => role === "visitor");
  useEffect(() => {
    if (!said || sample) return;
    // what the app has is no longer to be brought back
    if (said.state === "said") storage()?.removeItem(unsentName(slug));
    else storage()?.setItem(unsentName(slug), JSON.stringify({ text: said.text, pictures: said.pictures }));
  }, [slug, said, sample]);
  return { talk, state, lost };
}

function unsentName(slug: string): string {
  return `finch unsent ${slug}`;
}

/** What was sent before and never arrived, unless it stands in the conversation after all. */
function unsaid(slug: string, { messages }: TalkState): Unsaid {
  const kept = unsaidIn(storage()?.getItem(unsentName(slug)) ?? "");
  const files = filesOf(kept);
  const isThere = messages.some(
    (said) => said.role === "visitor" && said.text === kept.text && filesOf(said) === files,
  );
  return isThere ? nothing : kept;
}

function filesOf({ pictures }: Pick<Unsaid, "pictures">): string {
  return pictures.map(({ file }) => file).join(" ");
}

/**
 * What the app has to know of a visitor: by the address, by what was said here before, and by the first form, which
 * asks for the rest.
 */
function useAsked(slug: string, { names, given }: Asks) {
  const name = `finch variables ${slug}`;
  const [said, setSaid] = useState<Record<string, string>>();
  useEffect(() => setSaid(keptValues(storage()?.getItem(name))), [name]);
  const values = useMemo(() => {
    const all: Record<string, string | undefined> = { ...said, ...given };
    const asked = names.flatMap((each): [string, string][] => {
      const value = all[each];
      return value === undefined ? [] : [[each, value]];
    });
    return asked.length === 0 ? undefined : Object.fromEntries(asked);
  }, [names, given, said]);
  const give = (more: Record<string, string>) => {
    const now = { ...said, ...more };
    storage()?.setItem(name, JSON.stringify(now));
    setSaid(now);
  };
  const missing = names.filter((each) => values?.[each] === undefined);
  // what was kept is read once the page has come; where nothing is missing there is nothing to wait for
  return { values, missing, isKnown: said !== undefined || missing.length === 0, give };
}

/** Texts by name, as they were kept; none where something else stands there. */
function keptValues(kept: string | null | undefined): Record<string, string> {
  try {
    const values: unknown = JSON.parse(kept ?? "{}");
    if (typeof values !== "object" || values === null) return {};
    return Object.fromEntries(
      Object.entries(values).flatMap(([name, value]) => (typeof value === "string" ? [[name, value]] : [])),
    );
  } catch {
    return {};
  }
}

/** Whether a page of another origin shows this one in a frame. */
function isInFrameOfOthers(): boolean {
  try {
    return window.top?.location.origin !== window.location.origin;
  } catch {
    // another origin's window does not tell where it is
    return true;
  }
}

/** Where the page keeps what it knows; nowhere, where the browser lets it keep nothing. */
function storage(): Storage | undefined {
  try {
    return window.localStorage;
  } catch {
    return undefined;
  }
}

interface BeginningProps {
  look: Dress;
  title: string;
  /** False while the page has come and what makes it work has not: a click would be lost. */
  canAsk: boolean;
  ask: (text: string) => void;
}

function Beginning({ look, title, canAsk, ask }: BeginningProps) {
  return (
    <div className="talk-beginning">
      {look.greeting && (
        <div className="talk-row" data-role="app" data-state="complete">
          {look.avatars !== "none" && <Avatar look={look} name={look.names.app || title} />}
          <div className="talk-body">
            <p className="talk-text" dir="auto">
              {look.greeting}
            </p>
          </div>
        </div>
      )}
      {look.questions.length > 0 && (
        <ul className="talk-questions" aria-label="Questions to begin with">
          {look.questions.map((question) => (
            <li key={question}>
              <button type="button" disabled={!canAsk} onClick={() => ask(question)} dir="auto">
                {question}
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** Says a reply to who listens, once it is whole. */
function Spoken({ state, title }: { state: TalkState; title: string }) {
  const last = state.messages.at(-1);
  const wasUnderWay = useRef(false);
  const [spoken, setSpoken] = useState("");
  const text = last?.role === "app" && state.state === "ready" ? last.text : "";
  useEffect(() => {
    if (state.state !== "ready") {
      wasUnderWay.current = true;
      setSpoken("");
    } else if (wasUnderWay.current) {
      wasUnderWay.current = false;
      setSpoken(text ? `${title}: ${text}` : "");
    }
  }, [state.state, text, title]);
  return (
    <p className="talk-spoken" role="status">
      {state.state === "waiting" ? `${title} is asked.` : spoken}
    </p>
  );
}
