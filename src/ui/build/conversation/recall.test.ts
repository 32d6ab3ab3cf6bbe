import { describe, expect, it } from "vitest";
import { recalled } from "./recall";

const sent = ["The last\nwith two lines", "The one before"];
const end = (text: string) => ({ at: text.length });

describe("what was sent", () => {
  it("is recalled where nothing is written, from the last back, and forth to nothing again", () => {
    const first = recalled(sent, { text: "", back: 0 }, { at: 0 }, 1);
    expect(first).toEqual({ text: sent[0], back: 1 });
    const second = recalled(sent, { text: sent[0] ?? "", back: 1 }, { at: 0 }, 1);
    expect(second).toEqual({ text: sent[1], back: 2 });
    expect(recalled(sent, { text: sent[1] ?? "", back: 2 }, end(sent[1] ?? ""), -1)).toEqual({
      text: sent[0],
      back: 1,
    });
    expect(recalled(sent, { text: sent[0] ?? "", back: 1 }, end(sent[0] ?? ""), -1)).toEqual({ text: "", back: 0 });
  });

  it("leaves the arrows to a text that is written, or was changed", () => {
    expect(recalled(sent, { text: "Half", back: 0 }, { at: 0 }, 1)).toBeUndefined();
    expect(recalled(sent, { text: `${sent[1]}?`, back: 2 }, { at: 0 }, 1)).toBeUndefined();
  });

  it("lets the caret go through the lines of a text that was recalled", () => {
    const text = sent[0] ?? "";
    expect(recalled(sent, { text, back: 1 }, end(text), 1)).toBeUndefined();
    expect(recalled(sent, { text, back: 1 }, { at: 3 }, -1)).toBeUndefined();
    expect(recalled(sent, { text, back: 1 }, { at: 3 }, 1)).toEqual({ text: sent[1], back: 2 });
  });

  it("ends at the oldest, and at nothing", () => {
    expect(recalled(sent, { text: sent[1] ?? "", back: 2 }, { at: 0 }, 1)).toBeUndefined();
    expect(recalled(sent, { text: "", back: 0 }, { at: 0 }, -1)).toBeUndefined();
    expect(recalled([], { text: "", back: 0 }, { at: 0 }, 1)).toBeUndefined();
  });
});
