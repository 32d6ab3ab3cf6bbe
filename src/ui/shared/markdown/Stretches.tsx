import { Fragment, type ReactNode } from "react";
import { type Mark, stretchesOf } from "./marks";

/** A text with its marks, which are counted in it. */
export function Stretches({ text, marks }: { text: string; marks: readonly Mark[] }): ReactNode {
  if (marks.length === 0) return text;
  return stretchesOf(text, 0, marks).map(({ text, as: As }, at) =>
    As ? <As key={at}>{text}</As> : <Fragment key={at}>{text}</Fragment>,
  );
}
