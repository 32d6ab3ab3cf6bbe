import { type FormEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { Dress } from "./dress";

interface Props {
  look: Dress;
  isUnderWay: boolean;
  canStop: boolean;
  /** What was sent in an earlier visit and never arrived: it is written again, where nothing else is. */
  lost: string;
  /** What the text is kept as while it is typed; null to keep nothing. */
  keptAs: string | null;
  /** False where it was not taken. */
  say: (text: string) => Promise<boolean>;
  stop: () => void;
}

/** Where the visitor writes. What is typed stays until it was taken, reloads and failures included. */
export function Composer({ look, isUnderWay, canStop, lost, keptAs, say, stop }: Props) {
  const [text, setText] = useState("");
  const field = useRef<HTMLTextAreaElement>(null);
  const isHeld = look.composer === "held" && isUnderWay;

  useEffect(() => {
    // the field is there before what hears its keys
    const early = field.current?.value ?? "";
    if (keptAs) setText((typed) => typed || early || read(keptAs));
  }, [keptAs]);

  useEffect(() => setText((typed) => typed || lost), [lost]);

  const write = (next: string) => {
    setText(next);
    if (keptAs) keep(keptAs, next);
  };

  const send = (event?: FormEvent) => {
    event?.preventDefault();
    if (isUnderWay || text.trim() === "") return;
    // what was not taken stands in the conversation, with what to do about it
    void say(text);
    write("");
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
      <textarea
        ref={field}
        className="talk-input"
        rows={1}
        value={text}
        dir="auto"
        readOnly={isHeld}
        placeholder={look.placeholder}
        aria-label={look.placeholder || "Message"}
        onChange={(event) => write(event.target.value)}
        onKeyDown={onKeyDown}
      />
      {canStop ? (
        <button type="button" className="talk-stop" onClick={stop}>
          Stop
        </button>
      ) : (
        <button type="submit" className="talk-send" disabled={isUnderWay || text.trim() === ""}>
          Send
        </button>
      )}
    </form>
  );
}

function read(name: string): string {
  try {
    return localStorage.getItem(name) ?? "";
  } catch {
    return "";
  }
}

function keep(name: string, text: string): void {
  try {
    localStorage.setItem(name, text);
  } catch {
    // a browser that keeps nothing still sends
  }
}
