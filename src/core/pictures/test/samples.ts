import { encode } from "jpeg-js";
import { GifWriter } from "omggif";
import { PNG } from "pngjs";

/** Words that stand in what is told about a picture, and that nothing of it may keep. */
export const told = "Mill Quay, 54.1 N";

const tellings = new TextEncoder().encode(told);

/** Pixels of one colour, four bytes each. */
function pixels(width: number, height: number, [red, green, blue]: readonly number[]): Buffer {
  return Buffer.from(Array.from({ length: width * height }, () => [red, green, blue, 255] as number[]).flat());
}

/** A JPEG with EXIF, a comment, XMP, and bytes behind its end. */
export function jpegThatTells(width: number, height: number, colour = [31, 92, 107], orientation = 1): Uint8Array {
  const { data } = encode({ data: pixels(width, height, colour), width, height }, 90);
  const segment = (marker: number, content: Uint8Array) =>
    Buffer.concat([Buffer.from([0xff, marker, (content.length + 2) >> 8, (content.length + 2) & 255]), content]);
  return Buffer.concat([
    data.subarray(0, 2),
    segment(0xe1, Buffer.concat([Buffer.from("Exif\0\0"), tiff(orientation), tellings])),
    segment(0xe1, Buffer.concat([Buffer.from("http://ns.adobe.com/xap/1.0/\0"), tellings])),
    segment(0xfe, tellings),
    data.subarray(2),
    tellings,
  ]);
}

/** TIFF (6.0) with nothing in it but how a picture is to be turned. */
function tiff(orientation: number): Uint8Array {
  const bytes = Buffer.alloc(26);
  bytes.write("MM\0*", 0, "latin1");
  bytes.writeUInt32BE(8, 4);
  bytes.writeUInt16BE(1, 8);
  bytes.writeUInt16BE(0x0112, 10);
  bytes.writeUInt16BE(3, 12);
  bytes.writeUInt32BE(1, 14);
  bytes.writeUInt16BE(orientation, 18);
  return bytes;
}

/** A PNG with a text and EXIF in chunks of their own; the sums of chunks that only tell are not read. */
export function pngThatTells(width: number, height: number, colour = [31, 92, 107]): Uint8Array {
  const image = new PNG({ width, height });
  pixels(width, height, colour).copy(image.data);
  const bytes = PNG.sync.write(image);
  const head = 8 + 25;
  const chunk = (name: string) => {
    const all = Buffer.alloc(12 + tellings.length);
    all.writeUInt32BE(tellings.length, 0);
    all.write(name, 4, "latin1");
    all.set(tellings, 8);
    return all;
  };
  return Buffer.concat([bytes.subarray(0, head), chunk("tEXt"), chunk("eXIf"), bytes.subarray(head), tellings]);
}

/** The head of a PNG that says to be of a size, and holds less. */
export function pngThatClaims(width: number, height: number): Uint8Array {
  const bytes = Buffer.from(pngThatTells(2, 2));
  bytes.writeUInt32BE(width, 16);
  bytes.writeUInt32BE(height, 20);
  return bytes;
}

/** A GIF of so many frames, with a comment. */
export function gifThatTells(width: number, height: number, frames = 1): Uint8Array {
  const room = Buffer.alloc(width * height * frames * 2 + 4_096);
  const writer = new GifWriter(room, width, height, {
    palette: [0x1f5c6b, 0xe8b71a],
    loop: frames > 1 ? 0 : undefined,
  });
  for (let at = 0; at < frames; at++)
    writer.addFrame(
      0,
      0,
      width,
      height,
      Array.from({ length: width * height }, () => at % 2),
      { delay: 10 },
    );
  const bytes = room.subarray(0, writer.end());
  const comment = Buffer.concat([Buffer.from([0x21, 0xfe, tellings.length]), tellings, Buffer.from([0])]);
  return Buffer.concat([bytes.subarray(0, -1), comment, bytes.subarray(-1), tellings]);
}

/** A WebP (RFC 9649) of one pixel, lossless, with EXIF and XMP; or in frames. */
export function webpThatTells({ isAnimated = false } = {}): Uint8Array {
  const lossless = chunk(
    "VP8L",
    Buffer.from([0x2f, 0, 0, 0, 0, 0x07, 0x10, 0xfd, 0x8f, 0xfe, 0x07, 0x22, 0xa2, 0xff, 0x01, 0]),
  );
  const flags = Buffer.alloc(10);
  flags[0] = 0x0c | (isAnimated ? 0x02 : 0);
  const frame = chunk("ANMF", Buffer.concat([Buffer.alloc(16), lossless]));
  const body = Buffer.concat([
    Buffer.from("WEBP"),
    chunk("VP8X", flags),
    ...(isAnimated ? [chunk("ANIM", Buffer.alloc(6)), frame] : [lossless]),
    chunk("EXIF", tellings),
    chunk("XMP ", tellings),
  ]);
  const size = Buffer.alloc(4);
  size.writeUInt32LE(body.length);
  return Buffer.concat([Buffer.from("RIFF"), size, body]);

  function chunk(name: string, content: Uint8Array): Buffer {
    const length = Buffer.alloc(4);
    length.writeUInt32LE(content.length);
    return Buffer.concat([Buffer.from(name), length, content, Buffer.alloc(content.length % 2)]);
  }
}
