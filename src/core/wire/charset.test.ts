import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Characters, joinedBytes } from "./charset";

const utf16 = (text: string, isLittle: boolean) =>
  Uint8Array.from(
    [...Array(text.length).keys()].flatMap((at) => {
      const unit = text.charCodeAt(at);
      return isLittle ? [unit & 255, unit >> 8] : [unit >> 8, unit & 255];
    }),
  );

function read(contentType: string, bytes: Uint8Array, cuts: number[] = []): string {
  const characters = new Characters(contentType);
  const at = [0, ...cuts.map((cut) => Math.min(cut, bytes.length)).sort((a, b) => a - b), bytes.length];
  const parts = at.slice(1).map((end, place) => characters.feed(bytes.subarray(at[place], end)));
  return parts.join("") + characters.close();
}

const text = "Zwölf Räder 🚲 — ja.";

describe("characters from bytes", () => {
  it.each([
    ["text/plain", new TextEncoder().encode(text), text],
    ["text/plain; charset=utf-8", new TextEncoder().encode(text), text],
    ["text/plain;charset=ISO-8859-1", Uint8Array.from([0x52, 0xe4, 0x64, 0x65, 0x72]), "Räder"],
    ['text/plain; charset="latin1"', Uint8Array.from([0xe9]), "é"],
    ["application/json; charset=utf-16le", utf16(text, true), text],
    ["application/json; charset=UTF-16BE", utf16(text, false), text],
    ["application/json", utf16(`\uFEFF${text}`, true), text],
    ["application/json; charset=utf-16", utf16(`\uFEFF${text}`, false), text],
    ["text/plain; charset=of-our-own", new TextEncoder().encode(text), text],
    ["text/plain", Uint8Array.from([0xff]), "\uFFFD"],
    ["text/plain", Uint8Array.from([0x61, 0xf0, 0x9f]), "a\uFFFD"],
    ["", new Uint8Array(), ""],
  ])("by %s are the same however they are cut", (contentType, bytes, expected) => {
    fc.assert(
      fc.property(fc.array(fc.nat(60), { maxLength: 12 }), (cuts) => {
        expect(read(contentType, bytes, cuts)).toBe(expected);
      }),
      { numRuns: 50 },
    );
    const each = Array.from(bytes.keys());
    expect(read(contentType, bytes, each)).toBe(expected);
  });

  it("joins parts of bytes", () => {
    expect(joinedBytes([Uint8Array.of(1, 2), new Uint8Array(), Uint8Array.of(3)])).toEqual(Uint8Array.of(1, 2, 3));
  });
});
