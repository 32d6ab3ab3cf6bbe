import { useEffect, useRef } from "react";

/** Takes files that are dropped anywhere on the page, which a browser would otherwise open in its place. */
export function useDropped(take: (files: Iterable<File>) => void): void {
  const taking = useRef(take);
  taking.current = take;
  useEffect(() => {
    const over = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      // what has a place of its own for files takes them itself
      if (event.defaultPrevented || !event.dataTransfer?.files.length) return;
      event.preventDefault();
      taking.current(event.dataTransfer.files);
    };
    document.addEventListener("dragover", over);
    document.addEventListener("drop", drop);
    return () => {
      document.removeEventListener("dragover", over);
      document.removeEventListener("drop", drop);
    };
  }, []);
}
