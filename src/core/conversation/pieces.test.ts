import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { countsOf, countsOfPieces } from "../tokens/counts";
import {
  holdsSomething,
  joined,
  kindsOf,
  lastRound,
  leftPieces,
  type Piece,
  pieceSchema,
  piecesOf,
  type ToolPiece,
  textOf,
  withPiece,
  wordsOf,
} from "./pieces";

export const asked = (round: number, call: string, more: Partial<ToolPiece> = {}): ToolPiece => ({
  kind: "tool",
  round,
  call,
  name: "fares",
  arguments: { to: "Brindle" },
  outcome: "waiting",
  ...more,
});
const answered: Partial<ToolPiece> = { outcome: "answered", result: "4.00 EUR", ms: 12 };
const picture: Piece = { kind: "picture", file: "a".repeat(64), type: "image/png", width: 1_000, height: 600 };
const piece = fc.oneof(
  fc.string().map((text): Piece => ({ kind: "text", text })),
  fc.constant(picture),
  fc.tuple(fc.integer({ min: 1, max: 3 }), fc.constantFrom("a", "b")).map(([round, call]): Piece => asked(round, call)),
  fc.jsonValue().map((value): Piece => ({ kind: "data", value: value as null })),
);

describe("pieces", () => {
  it("are read as they were written, and an unknown kind is none", () => {
    for (const each of [...piecesOf("Aye"), picture, asked(1, "a", answered), { kind: "data", value: [1] } as const])
      expect(pieceSchema.parse(JSON.parse(JSON.stringify(each)))).toEqual(each);
    expect(pieceSchema.safeParse({ kind: "film", file: "x" }).success).toBe(false);
  });

  it("take what is newly known of a call in the place of what was, by its round and its id", () => {
    const before = [asked(1, "a"), asked(1, "b")].reduce<Piece[]>(withPiece, piecesOf("Let me see. "));
    const after = withPiece(before, asked(1, "a", answered));
    expect(after).toEqual([before[0], asked(1, "a", answered), asked(1, "b")]);
    expect(withPiece(after, asked(2, "a"))).toHaveLength(4);
    expect(lastRound({ pieces: withPiece(after, asked(2, "a")) })).toBe(2);
  });

  it("take newer data in the place of older", () => {
    expect(withPiece([{ kind: "data", value: 1 }], { kind: "data", value: 2 })).toEqual([{ kind: "data", value: 2 }]);
  });

  it("hold something where they hold more than white space", () => {
    expect([[], piecesOf(" \n"), [picture], [asked(1, "a")]].map((pieces) => holdsSomething({ pieces }))).toEqual([
      false,
      false,
      true,
      true,
    ]);
    expect(kindsOf({ pieces: [...piecesOf(" "), picture, picture] })).toEqual(["picture"]);
  });

  it("are text for whoever knows no other kind, and words for whoever looks for some", () => {
    const pieces: Piece[] = [
      picture,
      ...piecesOf("What is it? "),
      asked(1, "a", answered),
      { kind: "data", value: [1] },
    ];
    // data beside a text is that text, as it is read
    expect(textOf({ pieces })).toBe("What is it? ");
    expect(textOf({ pieces: pieces.filter(({ kind }) => kind === "data") })).toBe("[1]");
    expect(wordsOf({ pieces })).toContain("fares");
    expect(wordsOf({ pieces })).toContain("4.00 EUR");
  });

  it("say of a call that a dead process left that nobody knows whether it happened", () => {
    expect(leftPieces([asked(1, "a", answered), asked(1, "b")])).toMatchObject([
      { outcome: "answered" },
      { outcome: "unknown" },
    ]);
  });

  it("are as much together as one after another, text that meets included", () => {
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 5 }), fc.array(piece, { maxLength: 5 }), (first, second) => {
        // data is what the text beside it says already
        const [before, after] = [first, second].map((pieces) => pieces.filter(({ kind }) => kind !== "data"));
        if (!before || !after) return;
        const all = joined(before, after);
        expect(textOf({ pieces: all })).toBe(textOf({ pieces: before }) + textOf({ pieces: after }));
        const pictures = countsOfPieces(before).pictures + countsOfPieces(after).pictures;
        expect(countsOfPieces(all).pictures).toBe(pictures);
      }),
    );
  });
});

describe("the counts of pieces", () => {
  it("are those of the text, where there is nothing else", () => {
    const holds = (text: string) => void expect(countsOfPieces(piecesOf(text))).toEqual(countsOf(text));
    fc.assert(fc.property(fc.string(), holds));
  });

  it("of a picture go by its size, and of a call by what it says", () => {
    expect(countsOfPieces([picture])).toMatchObject({ pictures: 1, tiles: 4, kilopixels: 600, words: 0, calls: 0 });
    const call = countsOfPieces([asked(1, "a", answered)]);
    expect(call).toMatchObject({ calls: 1, pictures: 0 });
    expect(call.words).toBe(countsOf("fares").words + countsOf('{"to":"Brindle"}').words + countsOf("4.00 EUR").words);
  });
});
