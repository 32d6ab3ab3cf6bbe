import { type FormEvent, type KeyboardEvent, lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import type { TakenDocuments } from "@/core/serving/sent";
import type { Picture, Talk } from "@/module/talk";
import type { Dress } from "./dress";
import { nothing, type Unsaid, unsaidIn } from "./unsaid";

/** Fetched where an app takes pictures, or documents. */
const PictureField = lazy(() => import("./PictureField"));
const DocumentField = lazy(() => import("./DocumentField"));

interface Props {
  look: Dress;
  isUnderWay: boolean;
  canStop: boolean;
  /** What was sent in an earlier visit and never arrived: it is written again, where nothing else is. */
  lost: Unsaid;
  /** The pictures that a message may have; null where it may have none. */
  takes: { most: number; largest: number } | null;
  /** The documents that a visitor may have, the bytes of one, and whether by address, too; null where it may have none. */
  documents: TakenDocuments | null;
  talk: Talk | null;
  /** What the text is kept as while it is typed; null to keep nothing. */
  keptAs: string | null;
  /** False where it was not taken. */
  say: (text: string, pictures: readonly Picture[]) => Promise<boolean>;
  stop: () => void;
}

/** Where the visitor writes. What is typed stays until it was taken, reloads and failures included. */
export function Composer({ look, isUnderWay, canStop, lost, keptAs, takes, documents, talk, say, stop }: Props) {
  const [unsaid, setUnsaid] = useState(nothing);
  const [isPreparing, setPreparing] = useState(false);
  const [isReading, setReading] = useState(false);
  const isBusy = isPreparing || isReading;
  const field = useRef<HTMLTextAreaElement>(null);
  const isHeld = look.composer === "held" && isUnderWay;
  const { text, pictures } = unsaid;
  const isNothing = text.trim() === "" && pictures.length === 0;

  useEffect(() => {
    // the field is there before what hears its keys
    const early = field.current?.value ?? "";
    if (keptAs) setUnsaid((now) => filled(filled(now, { ...nothing, text: early }), unsaidIn(read(keptAs))));
  }, [keptAs]);

  useEffect(() => setUnsaid((now) => filled(now, lost)), [lost]);

  const newest = useRef(unsaid);
  newest.current = unsaid;
  const change = useCallback(
    (next: Partial<Unsaid>) => {
      newest.current = { ...newest.current, ...next };
      setUnsaid(newest.current);
      if (keptAs) keep(keptAs, newest.current);
    },
    [keptAs],
  );
  const setPictures = useCallback(
    (next: (before: readonly Picture[]) => readonly Picture[]) => change({ pictures: next(newest.current.pictures) }),
    [change],
  );

  const send = (event?: FormEvent) => {
    event?.preventDefault();
    if (isUnderWay || isNothing || isBusy) return;
    // what was not taken stands in the conversation, with what to do about it
    void say(text, pictures);
    change(nothing);
    field.current?.focus();
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Escape" && canStop) stop();
    if (event.key !== "Enter" || event.shiftKey || event.nativeEvent.isComposing) return;
    event.preventDefault();
    send();
  };

  return (
    <form className="talk-composer" onSubmit={send}>
      {documents && talk && (
        <Suspense fallback={null}>
          <DocumentField {...{ look, talk, field }} takes={documents} onBusy={setReading} />
        </Suspense>
      )}
      {takes && talk && (
        <Suspense fallback={null}>
          <PictureField {...{ look, talk, takes, pictures, setPictures, field }} onBusy={setPreparing} />
        </Suspense>
      )}
      <textarea
        ref={field}
        className="talk-input"
        rows={1}
        value={text}
        dir="auto"
        readOnly={isHeld}
        placeholder={look.placeholder}
        aria-label={look.placeholder || "Message"}
        onChange={(event) => change({ text: event.target.value })}
        onKeyDown={onKeyDown}
      />
      {canStop ? (
        <button type="button" className="talk-stop" onClick={stop}>
          Stop
        </button>
      ) : (
        <button type="submit" className="talk-send" disabled={isUnderWay || isNothing || isBusy}>
          Send
        </button>
      )}
    </form>
  );
}

/** What is there, and where nothing is, what is kept. */
function filled(now: Unsaid, kept: Unsaid): Unsaid {
  return { text: now.text || kept.text, pictures: now.pictures.length > 0 ? now.pictures : kept.pictures };
}

function read(name: string): string {
  try {
    return localStorage.getItem(name) ?? "";
  } catch {
    return "";
  }
}

function keep(name: string, unsaid: Unsaid): void {
  try {
    if (unsaid.text === "" && unsaid.pictures.length === 0) localStorage.removeItem(name);
    else localStorage.setItem(name, JSON.stringify(unsaid));
  } catch {
    // a browser that keeps nothing still sends
  }
}
