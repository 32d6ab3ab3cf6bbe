import { useCallback, useState } from "react";
import { benchFiles } from "@/contract/files";
import { largestPicture } from "@/core/pictures/picture";
import { problemIn, server } from "../api";
import { count } from "../format";
import { useInTurn } from "../use-in-turn";
import type { PictureChange } from "./prepared";
import { keptPictures } from "./use-kept-pictures";

/** What is said of a picture that was added, or could not be. */
export interface AddingNote {
  id: number;
  says: string;
  isWrong: boolean;
}

/** Adds pictures to what is kept beside a text, in the order in which they came. */
export interface Adding {
  /** How many are being made ready. */
  underWay: number;
  notes: readonly AddingNote[];
  add: (files: Iterable<File>) => void;
  remove: (file: string) => void;
  dismiss: (note: number) => void;
  /** Takes away what was said of pictures that have gone out. */
  clear: () => void;
}

let lastNote = 0;

/** @param text the name of the text beside which they are kept */
export function useAdding(text: string): Adding {
  const [underWay, setUnderWay] = useState(0);
  const inTurn = useInTurn();
  const [notes, setNotes] = useState<readonly AddingNote[]>([]);
  const note = useCallback((says: string, isWrong: boolean) => {
    lastNote += 1;
    const id = lastNote;
    setNotes((before) => [...before.slice(-3), { id, says, isWrong }]);
  }, []);
  const addOne = useCallback(
    async (file: File) => {
      try {
        const { preparePicture } = await import("./prepare");
        const prepared = await preparePicture({ file, largest: largestPicture });
        if (prepared.kind === "wrong") return note(`${file.name}: ${prepared.says}`, true);
        const kept = await server.sendBytes(benchFiles.keep, {}, prepared.picture);
        keptPictures.add(text, kept);
        if (prepared.changes.length > 0) note(wordsOfChanges(file.name, prepared.changes, kept), false);
      } catch (error) {
        const { detail, advice } = problemIn(error, "The picture");
        note(`${file.name}: ${detail} ${advice}`, true);
      } finally {
        setUnderWay((before) => before - 1);
      }
    },
    [text, note],
  );
  return {
    underWay,
    notes,
    add: (files) => {
      for (const file of files) {
        setUnderWay((before) => before + 1);
        inTurn(() => addOne(file));
      }
    },
    remove: (file) =>
      keptPictures.write(
        text,
        keptPictures.read(text).filter((each) => each.file !== file),
      ),
    clear: () => setNotes([]),
    dismiss: (id) => setNotes((before) => before.filter((each) => each.id !== id)),
  };
}

/** Says what was done to a picture before it was handed in. */
export function wordsOfChanges(
  name: string,
  changes: readonly PictureChange[],
  now: { width: number; height: number },
): string {
  const size = ({ width, height }: { width: number; height: number }) => `${count(width)} × ${count(height)}`;
  const said = changes.map((change) =>
    change.kind === "first frame"
      ? "it is animated, and its first frame is sent"
      : `it was made smaller, from ${size(change)} to ${size(now)} pixels`,
  );
  return `${name}: ${said.join("; ")}.`;
}
