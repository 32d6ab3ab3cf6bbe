import fc from "fast-check";
import { decode } from "jpeg-js";
import { PNG } from "pngjs";
import { describe, expect, it } from "vitest";
import { judgePicture } from "./judging";
import { readPicture } from "./reading";
import { gifThatTells, jpegThatTells, pngThatClaims, pngThatTells, told, webpThatTells } from "./test/samples";

const all: [type: string, bytes: Uint8Array, width: number, height: number][] = [
  ["image/jpeg", jpegThatTells(40, 24), 40, 24],
  ["image/png", pngThatTells(40, 24), 40, 24],
  ["image/gif", gifThatTells(40, 24), 40, 24],
  ["image/webp", webpThatTells(), 1, 1],
];

function pictureIn(bytes: Uint8Array) {
  const read = readPicture(bytes);
  return read.kind === "picture" ? read : expect.unreachable(read.kind);
}

describe("a picture that is read", () => {
  it.each(all)("is known by its bytes, and freed of what they tell about it: %s", (type, bytes, width, height) => {
    expect(Buffer.from(bytes).includes(told)).toBe(true);
    const read = pictureIn(bytes);
    expect(read).toMatchObject({ type, width, height, isAnimated: false, isTurned: false });
    for (const word of [told, "Exif", "EXIF", "XMP", "ns.adobe.com"])
      expect([word, Buffer.from(read.bytes).includes(word)]).toEqual([word, false]);
    // what is clean stays as it is
    expect(Buffer.from(pictureIn(read.bytes).bytes).equals(read.bytes)).toBe(true);
  });

  it("shows the same as before", () => {
    const [jpeg, png] = [jpegThatTells(9, 5), pngThatTells(9, 5)];
    expect(decode(pictureIn(jpeg).bytes).data.equals(decode(jpeg).data)).toBe(true);
    const { data } = PNG.sync.read(Buffer.from(pictureIn(png).bytes));
    expect([...data.subarray(0, 4), data.length]).toEqual([31, 92, 107, 255, 9 * 5 * 4]);
  });

  it("says whether it moves, and whether it is to be turned", () => {
    expect(pictureIn(gifThatTells(8, 8, 3)).isAnimated).toBe(true);
    expect(pictureIn(webpThatTells({ isAnimated: true })).isAnimated).toBe(true);
    expect(pictureIn(jpegThatTells(8, 6, undefined, 6)).isTurned).toBe(true);
  });

  it("is none where any of its end is missing", () => {
    for (const [type, bytes] of all) {
      const { length } = pictureIn(bytes).bytes;
      fc.assert(
        fc.property(fc.integer({ min: 0, max: length - 1 }), (to) => {
          expect([type, readPicture(pictureIn(bytes).bytes.subarray(0, to)).kind]).not.toEqual([type, "picture"]);
        }),
      );
    }
  });

  it("is never more than a picture, whatever bytes are", () => {
    const some = fc.constantFrom(...all.map(([, bytes]) => bytes));
    fc.assert(
      fc.property(some, fc.array(fc.tuple(fc.nat(400), fc.nat(255)), { maxLength: 6 }), (bytes, changes) => {
        const changed = Uint8Array.from(bytes);
        for (const [at, byte] of changes) changed[at] = byte;
        const read = readPicture(changed);
        if (read.kind === "picture") expect(read.bytes.length).toBeLessThanOrEqual(changed.length);
      }),
    );
  });
});

describe("bytes that are judged", () => {
  const says = (bytes: Uint8Array, largest?: number) => {
    const judged = judgePicture(bytes, largest);
    return judged.kind === "problem" ? `${judged.problem.kind}: ${judged.problem.detail}` : judged.kind;
  };
  const begins = (...bytes: (string | number)[]) =>
    Buffer.concat([
      ...bytes.map((each) => (typeof each === "string" ? Buffer.from(each, "latin1") : Buffer.from([each]))),
      Buffer.alloc(64),
    ]);

  it.each([
    [begins("ID3"), "bad-request: This is sound: apps take text and pictures, and neither sound nor film."],
    [begins("RIFF....WAVE"), "bad-request: This is sound"],
    [begins("OggS"), "bad-request: This is sound"],
    [begins(0xff, 0xfb), "bad-request: This is sound"],
    [begins("....ftypM4A "), "bad-request: This is sound"],
    [begins("....ftypisom"), "bad-request: This is a film"],
    [begins(0x1a, 0x45, 0xdf, 0xa3), "bad-request: This is a film"],
    [begins("RIFF....AVI "), "bad-request: This is a film"],
    [begins("BM"), "bad-request: This is a picture of the kind BMP"],
    [
      Buffer.from("<svg xmlns='http://www.w3.org/2000/svg' width='9' height='9'/>"),
      "bad-request: This is a picture of the kind SVG",
    ],
    [Buffer.from("<script>alert(1)</script>"), "bad-request: This is no picture that is taken: PNG, JPEG, WEBP, GIF."],
    [Buffer.alloc(0), "bad-request: This is no picture that is taken"],
    [
      jpegThatTells(8, 8).subarray(0, 300),
      "bad-request: This begins as a picture of the kind JPG, and it is not whole",
    ],
    [gifThatTells(8, 8, 2), "bad-request: The picture is animated"],
  ])("are refused in words, %#", (bytes, words) => {
    expect(says(bytes)).toContain(words);
  });

  it("are refused where they are many, or many pixels", () => {
    expect(says(pngThatTells(40, 30), 100)).toMatch(/^too-large: The picture has \d+ bytes, and may have 100\.$/);
    expect(says(pngThatClaims(8_000, 5_000))).toBe(
      "too-large: The picture has 8000 by 5000 pixels, 40 million, and may have 25 million.",
    );
  });
});
