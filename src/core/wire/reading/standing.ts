import type { Path } from "../path";

/** A header's name, in small letters, or a path. */
export interface CompiledPlace {
  header?: string;
  at?: Path;
}

/** What is known of an answer beside its documents. */
export interface Around {
  /** Its headers, by their names in small letters. */
  headers: Readonly<Record<string, string>>;
  /** When it came, in milliseconds since 1970. */
  at: number;
}

/** Where a value stands in an answer: at one of several places, of which the first that has one counts. */
export interface Standing {
  /** The value in a document; what stands in headers is read by `inHeaders`. */
  first(document: unknown): unknown;
  inHeaders(headers: Readonly<Record<string, string>>): string | undefined;
  /** The first of its paths that leads to a value in a document. */
  pathIn(document: unknown): Path | undefined;
}

/** Several places as one. */
export function standingOf(places: readonly CompiledPlace[]): Standing {
  const paths = places.flatMap(({ at }) => at ?? []);
  const names = places.flatMap(({ header }) => header ?? []);
  const [only, more] = paths;
  const pathIn = (document: unknown) => paths.find((path) => isThere(path.first(document)));
  const inHeaders = (headers: Readonly<Record<string, string>>) =>
    names.map((name) => headers[name]).find((value) => value !== undefined && value.trim() !== "");
  // most things stand at one place: that is read without a search
  if (only && !more) return { first: only.first, inHeaders, pathIn };
  return { first: (document) => pathIn(document)?.first(document), inHeaders, pathIn };
}

function isThere(value: unknown): boolean {
  return value !== undefined && value !== null && value !== "";
}
