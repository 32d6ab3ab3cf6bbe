import { useEffect, useState } from "react";
import type { Picture, Talk } from "@/module/talk";

/** Pixels of the longer side that a picture is shown with at most. */
const shownSide = 220;

/** The pictures of a message, each fetched as whoever this is. */
export default function Pictures({ pictures, talk }: { pictures: readonly Picture[]; talk: Talk | null }) {
  return pictures.map((picture) => <Shown key={picture.file} picture={picture} talk={talk} />);
}

function Shown({ picture: { file, width, height }, talk }: { picture: Picture; talk: Talk | null }) {
  const [address, setAddress] = useState<string>();
  const [isGone, setGone] = useState(false);
  useEffect(() => {
    if (!talk) return;
    let made: string | undefined;
    let isOver = false;
    talk.picture(file).then(
      (bytes) => {
        if (isOver) return;
        made = URL.createObjectURL(bytes);
        setAddress(made);
      },
      () => setGone(true),
    );
    return () => {
      isOver = true;
      if (made) URL.revokeObjectURL(made);
    };
  }, [talk, file]);
  const scale = Math.min(shownSide / Math.max(width, height), 1);
  const size = { width: Math.max(Math.round(width * scale), 1), height: Math.max(Math.round(height * scale), 1) };
  const says = `Picture of ${width} by ${height} pixels`;
  if (isGone) return <p className="talk-facts">{says}: it can't be fetched.</p>;
  // the room that it takes is there before it is
  return address ? (
    <img className="talk-shown" src={address} alt={says} {...size} />
  ) : (
    <span className="talk-shown" style={size} />
  );
}
