import { useRef } from "react";
import { bearingOn, statementBefore } from "@/core/sources/bearing";
import { citesIn } from "@/core/sources/citing";
import type { Cited } from "@/core/sources/found";
import { Action } from "../Action";
import { useLayer } from "../keys/use-layer";
import { wordsOfPlace } from "../wording/places";
import styles from "./CitedPassage.module.css";

/** A passage that a reply cites, opened in its place: the sentence that the reply stands on is marked. */
export function CitedPassage({
  cited,
  reply,
  onOpen,
  onClose,
}: {
  cited: Cited;
  /** The text of the reply. */
  reply: string;
  /** Opens its document, at the sentence. */
  onOpen?: (stretch: { from: number; to: number }) => void;
  onClose: () => void;
}) {
  const root = useRef<HTMLElement>(null);
  useLayer(root, onClose);
  const { mark, title, where, text } = cited;
  const first = citesIn(reply).find((each) => each.mark === mark);
  const { from, to } = bearingOn(text, first ? statementBefore(reply, first.from) : "");
  const place = wordsOfPlace(where);
  return (
    <section className={styles.cited} aria-label={`Passage ${mark}`} ref={root}>
      <b>{mark}</b> {title}
      {place && `, ${place}`}: <span className={styles.words}>“{text.slice(0, from)}</span>
      <mark>{text.slice(from, to)}</mark>
      <span className={styles.words}>{text.slice(to)}”</span>{" "}
      {onOpen && (
        <Action onClick={() => onOpen({ from: where.from + from, to: where.from + to })}>open at the place</Action>
      )}
      {onOpen && " · "}
      <Action onClick={onClose}>close</Action>
    </section>
  );
}
