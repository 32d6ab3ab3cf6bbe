import { encode } from "jpeg-js";
import { GifWriter } from "omggif";
import { PNG } from "pngjs";
import { describe, expect, it } from "vitest";
import { pictureIn, saidOfPictures } from "./pictures";

type Rgb = readonly [number, number, number];

/** The pixels of bands of colours, one above the other, each so many rows high. */
function bands(width: number, all: readonly (readonly [rows: number, colour: Rgb])[]) {
  const rows = all.flatMap(([count, colour]) => Array.from({ length: count }, () => colour));
  const data = Buffer.from(
    rows.flatMap(([red, green, blue]) => Array.from({ length: width }, () => [red, green, blue, 255]).flat()),
  );
  return { data, width, height: rows.length };
}

function png(of: ReturnType<typeof bands>): Uint8Array {
  const image = new PNG({ width: of.width, height: of.height });
  of.data.copy(image.data);
  return PNG.sync.write(image);
}

const seen = (bytes: Uint8Array) => {
  const picture = pictureIn(bytes);
  return picture ? saidOfPictures([picture]) : "none";
};

describe("a picture that is seen", () => {
  it.each<[Rgb, string]>([
    [[31, 92, 107], "teal"],
    [[232, 183, 26], "yellow"],
    [[163, 25, 46], "red"],
    [[67, 94, 41], "green"],
    [[20, 40, 200], "blue"],
    [[105, 68, 111], "violet"],
    [[119, 83, 0], "brown"],
    [[250, 250, 250], "white"],
    [[8, 8, 8], "black"],
    [[128, 130, 128], "grey"],
  ])("has a colour of pixels %j: %s", (colour, name) => {
    expect(seen(png(bands(20, [[20, colour]])))).toBe(`The picture is a PNG of 20 by 20 pixels, square, all ${name}.`);
  });

  it("has its colours from the one that there is most of, whichever kind it is", () => {
    const flag = bands(30, [
      [12, [31, 92, 107]],
      [6, [250, 250, 250]],
      [1, [163, 25, 46]],
    ]);
    const says = "30 by 19 pixels, wider than high, mostly teal, with white.";
    expect(seen(png(flag))).toBe(`The picture is a PNG of ${says}`);
    expect(seen(encode(flag, 95).data)).toBe(`The picture is a JPG of ${says}`);
    const room = Buffer.alloc(2_000);
    const writer = new GifWriter(room, 4, 2, { palette: [0x1f5c6b, 0xa3192e] });
    writer.addFrame(0, 0, 4, 2, [0, 0, 0, 0, 0, 1, 1, 0]);
    expect(seen(room.subarray(0, writer.end()))).toBe(
      "The picture is a GIF of 4 by 2 pixels, wider than high, mostly teal, with red.",
    );
  });

  it("is none where its bytes are none, and of no colours where they are not whole", () => {
    expect(seen(Buffer.from("<script>"))).toBe("none");
    expect(seen(png(bands(20, [[20, [1, 2, 3]]])).subarray(0, 60))).toContain("of colours that I can't make out");
  });
});
