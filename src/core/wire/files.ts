/**
 * A request holds no bytes of files: in their places stand marks, which are filled in while it is sent. So a picture is
 * not written anew at each turn, and a request is kept with its marks.
 */

/** Stands for the bytes of a file in a request, base64 (RFC 4648). @param hash SHA-256, in hexadecimal digits */
export function fileMark(hash: string): string {
  return `•file ${hash}•`;
}

/** The hashes of all files that a body has marks of. */
export function markedFiles(body: string): string[] {
  return [...body.matchAll(/•file ([0-9a-f]{64})•/g)].map(([, hash]) => hash as string);
}

/** A part of a request: text, or a file by its hash. */
export type Segment = { kind: "text"; text: string } | { kind: "file"; hash: string };

/** A body in parts. @param known the hashes of the files that the request may hold: what else looks like a mark is text */
export function segmentsOf(body: string, known: ReadonlySet<string>): Segment[] {
  if (known.size === 0) return [{ kind: "text", text: body }];
  const segments: Segment[] = [];
  for (const [at, part] of body.split(/(•file [0-9a-f]{64}•)/).entries()) {
    const hash = part.slice(6, -1);
    const before = segments.at(-1);
    if (at % 2 === 1 && known.has(hash)) segments.push({ kind: "file", hash });
    else if (before?.kind === "text") before.text += part;
    else if (part !== "") segments.push({ kind: "text", text: part });
  }
  return segments;
}
