import { Select } from "antd";
import { type KeyboardEvent, useRef, useState } from "react";
import type { Segment } from "@/core/wire/marks/marks";
import { Action } from "../../shared/Action";
import styles from "./ChosenText.module.css";

/** What a place says of how it stands, for who does not see its line. */
const standings = { sure: "proven", likely: "likely", asked: "asked", nothing: "taken for nothing" } as const;

/**
 * A pasted text whose parts are marked with what each was taken for. A part is chosen by pointing at it or, from one to the
 * next, by the arrow keys; then a sentence under the text says what it is, and lets one say it otherwise.
 */
export function ChosenText({
  label,
  segments,
  meanings,
  said,
  onSay,
}: {
  label: string;
  segments: Segment[];
  /** What a part can be. */
  meanings: readonly string[];
  /** What the developer said of a place. */
  said: (where: string) => string | undefined;
  onSay: (where: string, meaning: string) => void;
}) {
  const [at, setAt] = useState(0);
  const [chosen, setChosen] = useState<number>();
  const text = useRef<HTMLElement>(null);
  const places = segments.filter(({ place }) => place !== undefined);
  const open = chosen === undefined ? undefined : places[chosen];
  const focus = (number: number) =>
    text.current?.querySelectorAll<HTMLButtonElement>("button")[number]?.focus({ preventScroll: false });
  const move = (event: KeyboardEvent, number: number) => {
    const next = {
      ArrowRight: number + 1,
      ArrowDown: number + 1,
      ArrowLeft: number - 1,
      ArrowUp: number - 1,
      Home: 0,
      End: places.length - 1,
    }[event.key];
    if (next === undefined || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    const within = Math.min(Math.max(next, 0), places.length - 1);
    setAt(within);
    focus(within);
  };
  const close = (number: number) => {
    setChosen(undefined);
    focus(number);
  };
  let number = -1;
  return (
    <div>
      <section className={styles.text} aria-label={label} ref={text}>
        {segments.map(({ text, mark, place }, key) => {
          if (!place) return mark ? <mark key={key}>{text}</mark> : text;
          number += 1;
          const own = number;
          return (
            <button
              type="button"
              key={key}
              tabIndex={own === Math.min(at, places.length - 1) ? 0 : -1}
              data-standing={place.standing}
              data-tone={mark?.tone}
              aria-label={`${text}: ${mark ? `${mark.what}, ` : ""}${standings[place.standing]}`}
              aria-expanded={chosen === own}
              onKeyDown={(event) => move(event, own)}
              onClick={() => {
                setAt(own);
                setChosen(own);
              }}
            >
              {text}
              {mark && <small> {mark.what}</small>}
            </button>
          );
        })}
      </section>
      {open?.place && chosen !== undefined && (
        <p className={styles.sentence}>
          <code>{open.place.where}</code> is{" "}
          <Select<string>
            // of another part it begins anew, with its list open
            key={open.place.where}
            aria-label={`What ${open.place.where} is`}
            size="small"
            autoFocus
            defaultOpen
            popupMatchSelectWidth={false}
            value={said(open.place.where) ?? open.mark?.what ?? "nothing"}
            options={meanings.map((value) => ({
              value,
              label: value === "nothing" ? "nothing: it stays as it is" : value,
            }))}
            onSelect={(meaning) => {
              onSay(open.place?.where ?? "", meaning);
              close(chosen);
            }}
            onKeyDown={(event) => {
              if (event.key === "Escape") close(chosen);
            }}
          />{" "}
          <Action onClick={() => close(chosen)}>leave it</Action>
        </p>
      )}
    </div>
  );
}
