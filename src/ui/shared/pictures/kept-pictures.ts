import { z } from "zod";
import { picturePiece } from "@/core/conversation/pieces";
import type { KeptTexts } from "../kept-texts";

/** A picture that was handed in, and goes along with the next message. */
const keptSchema = picturePiece.omit({ kind: true });
export type KeptPicture = z.infer<typeof keptSchema>;
const all = z.array(keptSchema);

/** Under what name pictures are kept beside a text that is kept. */
function nameBeside(text: string): string {
  return `${text}.pictures`;
}

/** The pictures that go along with a text: kept as that is, until both are sent. */
export class KeptPictures {
  constructor(private readonly texts: KeptTexts) {}

  /** Those that are kept, as one and the same list until something changes. */
  read(text: string): readonly KeptPicture[] {
    const written = this.texts.read(nameBeside(text));
    if (written === "") return none;
    if (this.last?.written !== written) this.last = { written, pictures: parsed(written) };
    return this.last.pictures;
  }

  write(text: string, pictures: readonly KeptPicture[]): void {
    this.texts.write(nameBeside(text), pictures.length === 0 ? "" : JSON.stringify(pictures));
  }

  /** Adds a picture, unless it is there. */
  add(text: string, picture: KeptPicture): void {
    const there = this.read(text);
    if (!there.some(({ file }) => file === picture.file)) this.write(text, [...there, picture]);
  }

  /** Puts those that were not taken before what was added since. */
  giveBack(text: string, pictures: readonly KeptPicture[]): void {
    const since = this.read(text).filter(({ file }) => !pictures.some((each) => each.file === file));
    this.write(text, [...pictures, ...since]);
  }

  subscribe(text: string, listener: () => void): () => void {
    return this.texts.subscribe(nameBeside(text), listener);
  }

  private last: { written: string; pictures: readonly KeptPicture[] } | undefined;
}

const none: readonly KeptPicture[] = [];

function parsed(written: string): readonly KeptPicture[] {
  try {
    return all.parse(JSON.parse(written));
  } catch {
    // another program's, or an older version's
    return none;
  }
}
