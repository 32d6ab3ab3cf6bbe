import { type ChangeEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";
import { type Read, taken } from "./taken";

type Field = HTMLInputElement | HTMLTextAreaElement;

/** What a field in a sentence shows and does; spread on it. */
export interface Typed {
  text: string;
  /** What is wrong with the text, until it is mended or dropped. */
  why: string | undefined;
  setText: (text: string) => void;
  onChange: (event: ChangeEvent<Field>) => void;
  onBlur: () => void;
  onKeyDown: (event: KeyboardEvent<Field>) => void;
}

/**
 * What is typed in the place of a value: it takes effect on Enter or when its field is left, and is dropped on Escape.
 * What is wrong stays as it was typed, with what is wrong about it, and so does what was taken until the value is it.
 */
export function useTyped<T>({
  value,
  write,
  read,
  onTake,
  isLines = false,
}: {
  value: T;
  write: (value: T) => string;
  read: (text: string) => Read<T>;
  onTake: (value: T) => void;
  /** Whether Enter breaks the line: then Ctrl or Cmd with it takes. */
  isLines?: boolean;
}): Typed {
  const [typed, setTyped] = useState<string>();
  const [why, setWhy] = useState<string>();
  // a value that changed is what stands there, whatever was typed before
  const [from, setFrom] = useState(value);
  if (!Object.is(from, value)) {
    setFrom(value);
    setTyped(undefined);
    setWhy(undefined);
  }
  /** The text that was taken last: leaving its field takes it no second time. */
  const last = useRef<string>(undefined);
  const text = typed ?? write(value);
  const setText = (next: string) => {
    setTyped(next);
    setWhy(undefined);
  };
  const drop = () => {
    setTyped(undefined);
    setWhy(undefined);
    last.current = undefined;
  };
  const take = () => {
    if (typed === undefined) return;
    const outcome = taken(typed, value, read);
    if (outcome.kind === "wrong") return setWhy(outcome.why);
    if (outcome.kind === "same") return drop();
    last.current = typed;
    onTake(outcome.value);
  };
  const leave = () => {
    if (typed !== last.current) take();
  };
  // a field that goes away while it is typed in is left by that
  const newest = useRef(leave);
  newest.current = leave;
  useEffect(() => () => newest.current(), []);
  return {
    text,
    why,
    setText,
    onChange: ({ target }) => setText(target.value),
    onBlur: leave,
    onKeyDown: (event) => {
      if (event.nativeEvent.isComposing) return;
      if (event.key === "Enter" && (!isLines || event.ctrlKey || event.metaKey)) {
        event.preventDefault();
        event.stopPropagation();
        take();
      }
      // what is typed is dropped, and nothing else is closed by that key
      if (event.key === "Escape" && typed !== undefined && typed !== write(value)) {
        event.preventDefault();
        event.stopPropagation();
        drop();
      }
    },
  };
}
