import { type Recording, recordingSchema } from "./recording";

/** Bytes that the recordings of an app may have. */
export const mostRecordings = 16 * 1024 * 1024;

/** Thrown where a file is no file of recordings: its line, from 1, and why. */
export class NotRecordings extends Error {
  constructor(
    readonly line: number,
    readonly why: string,
  ) {
    super(`Line ${line}: ${why}.`);
  }
}

/** Recordings as a file: a line each, JSON, in the order of their places, so that the same ones give the same file. */
export function fileOf(recordings: readonly Recording[]): string {
  return recordings
    .map((recording) => ({ place: placeOf(recording), line: JSON.stringify(recording) }))
    .sort((a, b) => (a.place < b.place ? -1 : a.place > b.place ? 1 : 0))
    .map(({ line }) => `${line}\n`)
    .join("");
}

/** The recordings of a file. @throws {NotRecordings} */
export function recordingsIn(text: string): Recording[] {
  return text.split("\n").flatMap((line, at) => {
    if (line.trim() === "") return [];
    let value: unknown;
    try {
      value = JSON.parse(line);
    } catch {
      throw new NotRecordings(at + 1, "is no JSON");
    }
    const read = recordingSchema.safeParse(value);
    if (read.success) return [read.data];
    const [issue] = read.error.issues;
    throw new NotRecordings(at + 1, `${issue?.path.join(".") || "it"}: ${issue?.message ?? "is no recording"}`);
  });
}

function placeOf({ of: { check, column, trial }, call, n }: Recording): string {
  const number = (value: number) => String(value).padStart(6, "0");
  return JSON.stringify([check, column, number(trial), call.provider, call.model, call.path, number(n)]);
}
