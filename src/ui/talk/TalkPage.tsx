"use client";

import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { titleOfPage, wordsForFailure } from "@/core/look/words";
import { openTalk, type Talk, type TalkState } from "@/module/talk";
import { useFollowing } from "../shared/use-following";
import { Avatar } from "./Avatar";
import { Composer } from "./Composer";
import { Conversations } from "./Conversations";
import type { Dress } from "./dress";
import { Row } from "./Row";

interface Props {
  app: { slug: string; name: string };
  look: Dress;
  /** Whether the revision on trial answers. */
  isTrial: boolean;
  /** A state that is only looked at: nothing is called. */
  sample: TalkState | null;
}

const nothing: TalkState = { conversation: null, messages: [], state: "ready", failure: null, hasEarlier: false };

/** The visitors' page of an app: one conversation, and the list of those that there are. */
export function TalkPage({ app, look, isTrial, sample }: Props) {
  const { talk, state } = useTalk(app.slug, isTrial, sample);
  const [isListing, setListing] = useState(false);
  const { messages } = state;
  const last = messages.at(-1);
  const { frame, content, onScroll, isAway, toEnd } = useFollowing<HTMLElement, HTMLDivElement>(
    messages.findLast(({ role }) => role === "visitor")?.id ?? "",
  );
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
            aria-expanded={isListing}
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
        {isTrial && <p className="talk-trial">On trial: this is not what visitors get yet.</p>}
      </header>
      {isListing && talk && (
        <Conversations talk={talk} look={look} current={state.conversation} close={() => setListing(false)} />
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <main className="talk-line" ref={frame} onScroll={onScroll} tabIndex={0} aria-label="Conversation">
        <div ref={content}>
          {state.hasEarlier && (
            <button type="button" className="talk-word" onClick={() => talk?.earlier()}>
              Earlier messages
            </button>
          )}
          {messages.length === 0 && (
            <Beginning look={look} title={title} canAsk={canAsk} ask={(text) => talk?.say(text)} />
          )}
          {messages.map((said) => (
            <Row
              key={said.id}
              said={said}
              look={look}
              title={title}
              isLast={said === last}
              isReady={!isUnderWay}
              retry={() => talk?.retry()}
              again={() => talk?.again()}
              rate={(reply, rating) => void talk?.rate(reply, rating)}
              goOn={() => talk?.goOn()}
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
        <Composer
          look={look}
          isUnderWay={isUnderWay}
          canStop={state.state === "waiting" || state.state === "arriving"}
          keptAs={sample ? null : `finch draft ${app.slug}`}
          say={(text) => talk?.say(text) ?? Promise.resolve(false)}
          stop={() => talk?.stop()}
        />
        {look.smallPrint && <p className="talk-small">{look.smallPrint}</p>}
      </footer>
    </div>
  );
}

/** The conversation of this page, as it stands; a sample stands still. */
function useTalk(slug: string, isTrial: boolean, sample: TalkState | null): { talk: Talk | null; state: TalkState } {
  const [talk, setTalk] = useState<Talk | null>(null);
  useEffect(() => {
    if (sample) return;
    const opened = openTalk({
      app: `/api/apps/${slug}`,
      client: isInFrameOfOthers() ? "frame" : "page",
      keep: isTrial ? undefined : storage(),
      with: isTrial ? { trial: true } : undefined,
    });
    setTalk(opened);
    void opened.open();
    return () => opened.close();
  }, [slug, isTrial, sample]);
  const still = sample ?? nothing;
  const state = useSyncExternalStore(
    (changed) => talk?.watch(changed) ?? (() => {}),
    () => talk?.state ?? still,
    () => still,
  );
  return { talk, state };
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
