import { Fragment, type ReactNode, use } from "react";
import { Citing } from "./citing";
import { Dressed } from "./dress";
import { type Mark, stretchesOf } from "./marks";

/** A text with its marks, which are counted in it. */
export function Stretches({ text, marks }: { text: string; marks: readonly Mark[] }): ReactNode {
  if (marks.length === 0) return text;
  return stretchesOf(text, 0, marks).map(({ text, mark }, at) => {
    if (!mark) return <Fragment key={at}>{text}</Fragment>;
    if (mark.as === "cite")
      return (
        <Citation key={at} mark={mark.cites ?? ""}>
          {text}
        </Citation>
      );
    if (mark.as === "stray") return <Stray key={at}>{text}</Stray>;
    const As = mark.as;
    return <As key={at}>{text}</As>;
  });
}

/** A mark in a reply, which opens the passage that it names. */
function Citation({ mark, children }: { mark: string; children: string }) {
  const citing = use(Citing);
  const dress = use(Dressed);
  if (!citing) return children;
  return (
    <button
      type="button"
      className={dress.cite}
      aria-expanded={citing.opened === mark}
      aria-label={`Passage ${mark}`}
      onClick={() => citing.onOpen(mark)}
    >
      {children}
    </button>
  );
}

/** A mark of a passage that the reply did not have. */
function Stray({ children }: { children: string }) {
  return <span className={use(Dressed).stray}>{children}</span>;
}
