import { useEffect, useRef } from "react";

/** Whoever takes files that are dropped on the page. */
interface Taker {
  take(files: File[]): void;
  /** Which files are meant for it, where there are several. */
  isMine(file: File): boolean;
}

/** All there are, the last to come last. */
const takers = new Set<Taker>();

function over(event: DragEvent): void {
  if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
}

function drop(event: DragEvent): void {
  // what has a place of its own for files takes them itself
  if (event.defaultPrevented || !event.dataTransfer?.files.length) return;
  event.preventDefault();
  const files = [...event.dataTransfer.files];
  const all = [...takers];
  const whose = (file: File) => all.find((each) => each.isMine(file)) ?? all.at(-1);
  for (const taker of all) {
    const given = files.filter((file) => whose(file) === taker);
    if (given.length > 0) taker.take(given);
  }
}

/**
 * Takes files that are dropped anywhere on the page, which a browser would otherwise open in its place.
 * @param isMine which of them, where others take some, too; what nobody means goes to one of them
 */
export function useDropped(take: (files: File[]) => void, isMine: (file: File) => boolean = () => true): void {
  const current = useRef({ take, isMine });
  current.current = { take, isMine };
  useEffect(() => {
    const taker: Taker = {
      take: (files) => current.current.take(files),
      isMine: (file) => current.current.isMine(file),
    };
    takers.add(taker);
    document.addEventListener("dragover", over);
    document.addEventListener("drop", drop);
    return () => {
      takers.delete(taker);
      if (takers.size > 0) return;
      document.removeEventListener("dragover", over);
      document.removeEventListener("drop", drop);
    };
  }, []);
}
