import { Fragment, type ReactNode, use } from "react";
import { CopyAction } from "../CopyAction";
import { type ColouredStretch, stretchesWithin } from "./colour-stretches";
import { Dressed } from "./dress";
import type { CutFence } from "./fences";
import { type Mark, marksWithin } from "./marks";
import { Stretches } from "./Stretches";
import { mostColoured, useColours } from "./use-colours";

/** Code, in the colours of its language once it is whole. */
export function Fence({
  text,
  language,
  marks,
  isOpen,
  cut,
}: {
  text: string;
  language: string;
  marks: readonly Mark[];
  /** Whether more of it may come. */
  isOpen: boolean;
  /** Where this is a part of it, all of it. */
  cut?: CutFence;
}) {
  const dress = use(Dressed);
  const canColour = !isOpen && language !== "" && (cut ? cut.isWithin(mostColoured) : text.length <= mostColoured);
  const colours = useColours(canColour ? { text: cut ? cut.text() : text, language } : undefined);
  const isFirst = !cut || cut.after === 0;
  return (
    <div className={dress.fence} data-fence>
      {isFirst && !(isOpen && text === "") && (
        <CopyAction className={dress.copy} text={() => cut?.text() ?? text} said={dress.said}>
          {dress.said.copy}
        </CopyAction>
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by key */}
      <pre className={dress.code} tabIndex={0} dir="ltr">
        <code>
          {colours ? (
            <Coloured stretches={stretchesWithin(colours, cut?.after ?? 0, text.length)} marks={marks} />
          ) : (
            <Stretches text={text} marks={marks} />
          )}
        </code>
      </pre>
    </div>
  );
}

function Coloured({ stretches, marks }: { stretches: readonly ColouredStretch[]; marks: readonly Mark[] }): ReactNode {
  let at = 0;
  return stretches.map(({ text, classes }, place) => {
    const own = <Stretches text={text} marks={marksWithin(marks, at, text.length)} />;
    at += text.length;
    return classes === "" ? (
      <Fragment key={place}>{own}</Fragment>
    ) : (
      <span key={place} className={classes}>
        {own}
      </span>
    );
  });
}
