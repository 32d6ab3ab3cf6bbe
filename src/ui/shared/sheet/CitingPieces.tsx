import { useMemo, useState } from "react";
import { type Piece, textOf } from "@/core/conversation/pieces";
import type { Cited } from "@/core/sources/found";
import { isVisitors } from "@/core/sources/sources";
import { Citing, citeMarking } from "../markdown/citing";
import type { Marking } from "../markdown/marks";
import { Pieces } from "../markdown/Pieces";
import { CitedPassage } from "./CitedPassage";

const noCites: readonly Cited[] = [];
const noMarks: readonly string[] = [];

/** The pieces of a reply, and how they are read. */
export interface CitingProps {
  pieces: readonly Piece[];
  cites?: readonly Cited[];
  /** Marks of passages that it did not have. */
  strayMarks?: readonly string[];
  isArriving?: boolean;
  /** What else is marked. */
  marking?: Marking;
  /** Opens a document, at a stretch of its text. */
  onOpenDocument?: (cited: Cited, stretch: { from: number; to: number }) => void;
}

/** The pieces of a reply: the marks in them open the passages that it cites, in their place. */
export function CitingPieces({
  pieces,
  cites = noCites,
  strayMarks = noMarks,
  isArriving = false,
  marking,
  onOpenDocument,
}: CitingProps) {
  const [opened, setOpened] = useState<string>();
  const all = useMemo(() => {
    if (cites.length + strayMarks.length === 0) return marking;
    const citing = citeMarking(new Set(cites.map(({ mark }) => mark)), new Set(strayMarks));
    return (words: string, block: number) =>
      [...citing(words, block), ...(marking?.(words, block) ?? [])].sort((a, b) => a.from - b.from);
  }, [cites, strayMarks, marking]);
  const citing = useMemo(
    () => ({ opened, onOpen: (mark: string) => setOpened((before) => (before === mark ? undefined : mark)) }),
    [opened],
  );
  const cited = cites.find(({ mark }) => mark === opened);
  return (
    <Citing value={citing}>
      <Pieces pieces={pieces} by="app" isArriving={isArriving} markingOf={all && (() => all)} />
      {cited && (
        <CitedPassage
          cited={cited}
          reply={textOf({ pieces })}
          onOpen={
            isVisitors(cited.source) ? undefined : onOpenDocument && ((stretch) => onOpenDocument(cited, stretch))
          }
          onClose={() => setOpened(undefined)}
        />
      )}
    </Citing>
  );
}
