import { describe, expect, it } from "vitest";
import { keyIn, keyTable, type Pressed } from "./table";

function pressed(key: string, change: Partial<Pressed> = {}): Pressed {
  return { key, code: "", altKey: false, ctrlKey: false, metaKey: false, shiftKey: false, ...change };
}

describe("the keys of the bench", () => {
  it.each([
    ["with a real Shift", pressed("?", { code: "Slash", shiftKey: true })],
    ["with a real Shift, in another place", pressed("?", { code: "Minus", shiftKey: true })],
    ["without Shift, where it needs none", pressed("?", { code: "Comma" })],
    [
      "with AltGr, which some systems tell as Ctrl and Alt",
      pressed("?", { ctrlKey: true, altKey: true, getModifierState: (name) => name === "AltGraph" }),
    ],
  ])("? is heard %s", (_, event) => {
    expect(keyIn("bench", event)?.id).toBe("list");
  });

  it("/ is heard where it takes Shift", () => {
    expect(keyIn("history", pressed("/", { code: "Digit7", shiftKey: true }))?.id).toBe("find");
    expect(keyIn("history", pressed("/", { ctrlKey: true }))).toBeUndefined();
  });

  it("letters and digits beside Alt are known by what they write, else by their place", () => {
    expect(keyIn("build", pressed("n", { altKey: true, code: "KeyN" }))?.id).toBe("new");
    expect(keyIn("build", pressed("ñ", { altKey: true, code: "KeyN" }))?.id).toBe("new");
    expect(keyIn("build", pressed("N", { altKey: true, code: "KeyL" }))?.id).toBe("new");
    expect(keyIn("build", pressed("l", { altKey: true, code: "KeyN" }))).toBeUndefined();
    expect(keyIn("build", pressed("¡", { altKey: true, code: "Digit3" }))).toEqual({ id: "station", at: 2 });
    expect(keyIn("build", pressed("n"))).toBeUndefined();
    expect(keyIn("build", pressed("n", { altKey: true, ctrlKey: true }))).toBeUndefined();
  });

  it("Shift tells Enter from Enter", () => {
    expect(keyIn("message", pressed("Enter"))?.id).toBe("send");
    expect(keyIn("message", pressed("Enter", { shiftKey: true }))?.id).toBe("break");
    expect(keyIn("message", pressed("ArrowUp", { altKey: true }))).toBeUndefined();
    expect(keyIn("build", pressed("ArrowUp", { altKey: true }))?.id).toBe("above");
  });

  it("no two of one scope answer to the same press", () => {
    for (const scope of new Set(keyTable.map((key) => key.scope))) {
      const presses = keyTable.filter((key) => key.scope === scope).flatMap((key) => [...key.presses] as string[]);
      expect(new Set(presses).size).toBe(presses.length);
    }
  });
});
