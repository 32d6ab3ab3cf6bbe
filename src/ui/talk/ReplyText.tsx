import { useMemo, useState } from "react";
import { bearingOn, statementBefore } from "@/core/sources/bearing";
import { citesIn } from "@/core/sources/citing";
import type { Citation } from "@/module/talk";
import { Citing, citeMarking } from "../shared/markdown/citing";
import { DataTree } from "../shared/markdown/DataTree";
import { Dressed, type TextDress } from "../shared/markdown/dress";
import { Markdown } from "../shared/markdown/Markdown";

const ofPage: TextDress = {
  text: "talk-text",
  scroll: "talk-scroll",
  fence: "talk-fence",
  code: "talk-code",
  copy: "talk-word talk-copy",
  written: "talk-written",
  note: undefined,
  action: "talk-word",
  cite: "talk-word talk-cite",
  stray: "",
  said: { copy: "Copy", copied: "Copied", failed: "It can't be copied here" },
};

interface Shown {
  text: string;
  /** The reply as data; null where it is none. */
  data: unknown;
  cites: readonly Citation[];
  isArriving: boolean;
  isPlain: boolean;
}

/** The words of a reply on the visitors' page, in the classes that a developer's style sheet knows. */
export default function ReplyText({ cites, data, ...shown }: Shown) {
  const [opened, setOpened] = useState<string>();
  const marking = useMemo(
    () => (cites.length === 0 ? undefined : citeMarking(new Set(cites.map(({ mark }) => mark)), new Set())),
    [cites],
  );
  const citing = useMemo(
    () => ({ opened, onOpen: (mark: string) => setOpened((before) => (before === mark ? undefined : mark)) }),
    [opened],
  );
  const cited = cites.find(({ mark }) => mark === opened);
  if (data !== null)
    return (
      <div className="talk-text talk-data">
        <DataTree value={data} />
      </div>
    );
  return (
    <Dressed value={ofPage}>
      <Citing value={citing}>
        <Markdown {...shown} marking={marking} />
        {cited && <Passage cited={cited} reply={shown.text} onClose={() => setOpened(undefined)} />}
      </Citing>
    </Dressed>
  );
}

/** A passage that a reply stands on, the sentence of it that matters marked. */
function Passage({ cited, reply, onClose }: { cited: Citation; reply: string; onClose: () => void }) {
  const { mark, title, text, where } = cited;
  const first = citesIn(reply).find((each) => each.mark === mark);
  const { from, to } = bearingOn(text, first ? statementBefore(reply, first.from) : "");
  const place = [where.headings.at(-1), where.page && `page ${where.page}`, where.row && `row ${where.row}`];
  return (
    <aside className="talk-passage" aria-label={`Passage ${mark}`}>
      <b>{[title, ...place].filter(Boolean).join(", ")}</b>
      <p dir="auto">
        {text.slice(0, from)}
        <mark>{text.slice(from, to)}</mark>
        {text.slice(to)}
      </p>
      <button type="button" className="talk-word" onClick={onClose}>
        Close
      </button>
    </aside>
  );
}
