/** What a file becomes before it is handed in. */
export interface Preparing {
  file: Blob;
  /** Bytes that it may have then. */
  largest: number;
}

/** What came of a file: a picture to hand in, with what was done to it, or why there is none. */
export type PreparedPicture =
  | { kind: "ready"; picture: Blob; width: number; height: number; changes: PictureChange[] }
  | { kind: "wrong"; says: string };

/** What was done to a picture: made smaller, from so many pixels; or taken from a film of frames. */
export type PictureChange = { kind: "smaller"; width: number; height: number } | { kind: "first frame" };
