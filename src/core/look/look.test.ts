import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { contrastOf, enough, inkOn, readableOn } from "./contrast";
import { lookSchema } from "./look";
import { titleOfPage, wordsForFailure } from "./words";

const colour = fc.integer({ min: 0, max: 0xffffff }).map((value) => `#${value.toString(16).padStart(6, "0")}`);

describe("a look", () => {
  it("that says nothing suits any app", () => {
    const look = lookSchema.parse({});
    expect(look).toMatchObject({ rows: "plain", accent: "#24506b", shows: { tokens: false } });
    expect(titleOfPage(look, "Quay Desk")).toBe("Quay Desk");
  });

  it.each([
    [{ accent: "blue" }, "a colour in words"],
    [{ picture: "https://elsewhere.test/a.png" }, "a picture from elsewhere"],
    [{ picture: "data:image/svg+xml;base64,AAAA" }, "a picture that can hold a script"],
    [{ language: 'en" onload=' }, "a language that is none"],
    [{ failures: { smoke: "x" } }, "a failure that there is not"],
    [{ colour: "#000000" }, "an unknown member"],
  ])("%j is refused: %s", (wrong: object, _why: string) => {
    expect(lookSchema.safeParse(wrong).success).toBe(false);
  });

  it("words a failure in the developer's words, or else in its own", () => {
    const look = lookSchema.parse({ failures: { "timed-out": "The ferry is late." } });
    expect(wordsForFailure(look, "timed-out")).toBe("The ferry is late.");
    expect(wordsForFailure(look, "over-limit")).toContain("wait");
    expect(wordsForFailure(look, "internal")).toContain("try again");
  });
});

describe("contrast", () => {
  it("is what the standard says", () => {
    expect(contrastOf("#000000", "#ffffff")).toBeCloseTo(21, 5);
    expect(contrastOf("#777777", "#ffffff")).toBeCloseTo(4.48, 2);
  });

  it("of the ink on any accent is enough, and any accent can be read on both grounds", () => {
    fc.assert(
      fc.property(colour, (accent) => {
        expect(contrastOf(accent, inkOn(accent))).toBeGreaterThanOrEqual(enough);
        for (const ground of ["#ffffff", "#12181b"])
          expect(contrastOf(readableOn(accent, ground), ground)).toBeGreaterThanOrEqual(enough);
      }),
    );
  });
});
