import { type RefObject, useCallback, useEffect, useState } from "react";
import { wordsForFailure } from "@/core/look/words";
import type { Failure, Picture, Talk } from "@/module/talk";
import { preparePicture } from "../shared/pictures/prepare";
import { useDropped } from "../shared/use-dropped";
import { useInTurn } from "../shared/use-in-turn";
import type { Dress } from "./dress";
import Pictures from "./Pictures";

interface Props {
  look: Dress;
  talk: Talk | null;
  takes: { most: number; largest: number };
  pictures: readonly Picture[];
  setPictures: (change: (before: readonly Picture[]) => readonly Picture[]) => void;
  /** Is told whether some are being made ready. */
  onBusy: (isBusy: boolean) => void;
  /** Where the visitor writes, and pastes. */
  field: RefObject<HTMLTextAreaElement | null>;
}

/** What goes along with the next message beside words: picked, pasted or dropped. Fetched where an app takes some. */
export default function PictureField({ look, talk, takes, pictures, setPictures, onBusy, field }: Props) {
  const [underWay, setUnderWay] = useState(0);
  const [wrong, setWrong] = useState("");
  const inTurn = useInTurn();
  useEffect(() => onBusy(underWay > 0), [underWay, onBusy]);
  const { most, largest } = takes;
  const addOne = async (file: File) => {
    try {
      const prepared = await preparePicture({ file, largest });
      if (prepared.kind === "wrong") return setWrong(prepared.says);
      const kept = await talk?.keepPicture(prepared.picture);
      if (kept) setPictures((before) => [...before.filter((each) => each.file !== kept.file), kept].slice(0, most));
    } catch (error) {
      setWrong(wordsForFailure(look, (error as { failure?: Failure }).failure?.kind ?? "internal"));
    } finally {
      setUnderWay((before) => before - 1);
    }
  };
  const add = (files: Iterable<File>) => {
    setWrong("");
    const all = [...files];
    const room = Math.max(most - pictures.length - underWay, 0);
    if (all.length > room) setWrong(`A message takes ${most} ${most === 1 ? "picture" : "pictures"}.`);
    for (const file of all.slice(0, room)) {
      setUnderWay((before) => before + 1);
      inTurn(() => addOne(file));
    }
  };
  useDropped(add, isPicture);
  usePasted(field, add);
  return (
    <div className="talk-pictures">
      {pictures.map((picture, at) => (
        <span key={picture.file} className="talk-held">
          <Pictures pictures={[picture]} talk={talk} />
          <button
            type="button"
            className="talk-word"
            aria-label={`Leave out picture ${at + 1}`}
            onClick={() => {
              setPictures((before) => before.filter(({ file }) => file !== picture.file));
              field.current?.focus();
            }}
          >
            Leave out
          </button>
        </span>
      ))}
      <label className="talk-word talk-pick">
        Add a picture
        <input
          type="file"
          accept="image/png,image/jpeg,image/webp,image/gif"
          multiple
          onChange={(event) => {
            add(event.target.files ?? []);
            event.target.value = "";
            field.current?.focus();
          }}
        />
      </label>
      <p role="status">
        {underWay > 0 && "A picture is made ready. "}
        {wrong}
      </p>
    </div>
  );
}

function isPicture({ type }: File): boolean {
  return type.startsWith("image/");
}

/** Takes pictures that are pasted where the visitor writes; text beside them is pasted as text. */
function usePasted(field: Props["field"], take: (files: Iterable<File>) => void): void {
  const paste = useCallback(
    (event: ClipboardEvent) => {
      const { files, types } = event.clipboardData ?? {};
      if (!files?.length || types?.includes("text/plain")) return;
      event.preventDefault();
      take(files);
    },
    [take],
  );
  useEffect(() => {
    const { current } = field;
    current?.addEventListener("paste", paste);
    return () => current?.removeEventListener("paste", paste);
  }, [field, paste]);
}
