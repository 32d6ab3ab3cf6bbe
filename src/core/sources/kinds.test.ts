import { describe, expect, it } from "vitest";
import { kindOf, separatorOf } from "./kinds";

const bytes = (text: string) => new TextEncoder().encode(text);
const raw = (...parts: (string | number)[]) =>
  Uint8Array.from(
    parts.flatMap((part) => (typeof part === "number" ? [part] : [...part].map((sign) => sign.charCodeAt(0)))),
  );

describe("the kind of a file", () => {
  it.each([
    ["Dogs travel free.\nBicycles cost €2.00.", "text"],
    ["# Rules\n\nDogs travel free.", "markdown"],
    ["- dogs\n- bicycles\n", "markdown"],
    ["See [the rules](rules.md).", "markdown"],
    ["| Time | To |\n|---|---|\n| 9:40 | Brindle |\n| 8:10 | Brindle |", "markdown"],
    ["<!doctype html><title>Rules</title>", "html"],
    ["<!-- made by hand -->\n<html><body>Rules</body></html>", "html"],
    ["Time,To,Bicycles\n8:10,Brindle,4\n9:40,Tansy Holm,8\n", "csv"],
    ["Zeit;Nach\n8:10;Brindle\n9:40;Tansy Holm\n", "csv"],
    ['Time,Note\n8:10,"calm, mostly"\n9:40,"rough, wet"\n', "csv"],
    ["Dogs, cats, and birds.\nBoats, ramps, and ropes.\nTea, coffee, and cake.", "text"],
  ])("is found from %j", (text, kind) => {
    expect(kindOf(bytes(text))).toEqual({ kind });
  });

  it("is found from bytes, whatever a file is called", () => {
    expect(kindOf(raw("%PDF-1.7\n", 0xe2, 0xe3))).toEqual({ kind: "pdf" });
    expect(kindOf(raw("PK", 3, 4, "....[Content_Types].xml....word/document.xml"))).toEqual({ kind: "docx" });
    expect(kindOf(raw("PK", 3, 4, "....[Content_Types].xml....xl/workbook.xml"))).toMatchObject({ kind: "unreadable" });
    expect(kindOf(raw("PK", 3, 4, "....notes.txt"))).toEqual({ kind: "unreadable", is: "an archive (ZIP)" });
    expect(kindOf(raw(0x89, "PNG\r\n"))).toEqual({ kind: "unreadable", is: "a picture (PNG)" });
    expect(kindOf(raw("GIF89a"))).toEqual({ kind: "unreadable", is: "a picture (GIF)" });
    expect(kindOf(new Uint8Array())).toEqual({ kind: "unreadable", is: "empty" });
    expect(kindOf(raw(1, 2, 0, 0, 7, 0xff))).toMatchObject({ kind: "unreadable" });
    expect(kindOf(raw(0xff, 0xfe, "#", 0, " ", 0, "A", 0))).toEqual({ kind: "markdown" });
    expect(kindOf(raw("F", 0xe4, "hren fahren um neun."))).toEqual({ kind: "text" });
  });

  it("tells what parts the columns of a table", () => {
    expect(separatorOf("a\tb\n1\t2\n3\t4")).toBe("\t");
    expect(separatorOf("a,b\n1,2")).toBeUndefined();
  });
});
