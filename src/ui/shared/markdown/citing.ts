import { createContext } from "react";
import { citesIn } from "@/core/sources/citing";
import type { Mark, Marking } from "./marks";

/** What is done with the marks of passages in a text; undefined where they are nothing but words. */
export const Citing = createContext<{ opened: string | undefined; onOpen: (mark: string) => void } | undefined>(
  undefined,
);

/** Marks the passages that a reply cites: those that it had, and those that it did not. Of several in a pair of brackets each is one. */
export function citeMarking(had: ReadonlySet<string>, stray: ReadonlySet<string>): Marking {
  return (words) => {
    const cites = citesIn(words);
    return cites.flatMap(({ mark, from, to }, at): Mark[] => {
      const together = cites.filter((each) => each.from === from);
      const own = partOf(words, { from, to }, together.length, at - cites.indexOf(together[0] ?? (cites[at] as never)));
      if (had.has(mark)) return [{ ...own, as: "cite", cites: mark }];
      return stray.has(mark) ? [{ ...own, as: "stray" }] : [];
    });
  };
}

/** Where one of several marks stands in its brackets; the first has the bracket before it, the last the one behind. */
function partOf(words: string, { from, to }: { from: number; to: number }, count: number, place: number) {
  if (count === 1) return { from, to };
  const ends = [...words.slice(from, to).matchAll(/[,;]\s*/g)].map(
    ({ index, 0: border }) => from + index + border.length,
  );
  return { from: place === 0 ? from : (ends[place - 1] ?? from), to: place === count - 1 ? to : (ends[place] ?? to) };
}
