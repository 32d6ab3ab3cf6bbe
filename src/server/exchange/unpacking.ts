import { type Duplex, Transform, type TransformCallback } from "node:stream";
import { constants, createBrotliDecompress, createGunzip, createInflate, createInflateRaw } from "node:zlib";

/** The encodings that are asked for and read, as RFC 9110, 12.5.3 writes them. */
export const acceptedEncodings = "gzip, deflate, br";

/** Thrown for an answer in an encoding that was not asked for. */
export class UnknownEncoding extends Error {}

/**
 * What undoes the compression of an answer, as it comes: what is whole is not held back for more. Its
 * stream fails where the bytes are not what the headers say. Nothing for an answer that is as it is.
 * @param encoding the value of its Content-Encoding header
 * @throws {UnknownEncoding}
 */
export function unpackerFor(encoding = ""): Duplex[] {
  const encodings = encoding
    .split(",")
    .map((name) => name.trim().toLowerCase())
    .filter((name) => name !== "" && name !== "identity");
  // the last one named was done last, and is undone first (RFC 9110, 8.4)
  return encodings.reverse().map(undoing);
}

const flush = { flush: constants.Z_SYNC_FLUSH };

function undoing(encoding: string): Duplex {
  if (encoding === "gzip" || encoding === "x-gzip") return createGunzip(flush);
  if (encoding === "deflate") return new Inflate();
  if (encoding === "br") return createBrotliDecompress({ flush: constants.BROTLI_OPERATION_FLUSH });
  throw new UnknownEncoding(encoding);
}

/** Undoes deflate with the header of RFC 1950 or, as some servers send it, without. */
class Inflate extends Transform {
  private inner: Duplex | undefined;

  override _transform(chunk: Buffer, _encoding: BufferEncoding, done: TransformCallback): void {
    if (!this.inner) {
      this.inner = ((chunk[0] ?? 0) & 0x0f) === 8 ? createInflate(flush) : createInflateRaw(flush);
      this.inner.on("data", (part: Buffer) => this.push(part));
      this.inner.on("error", (error) => this.destroy(error));
    }
    this.inner.write(chunk, () => done());
  }

  override _flush(done: TransformCallback): void {
    if (!this.inner) {
      done();
      return;
    }
    this.inner.once("end", () => done());
    this.inner.end();
  }
}
