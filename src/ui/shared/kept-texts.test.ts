import { describe, expect, it, vi } from "vitest";
import { KeptTexts } from "./kept-texts";

function storage() {
  const all = new Map<string, string>();
  return {
    all,
    getItem: (name: string) => all.get(name) ?? null,
    setItem: (name: string, text: string) => void all.set(name, text),
    removeItem: (name: string) => void all.delete(name),
  };
}

describe("what is typed", () => {
  it("is found again under its conversation, after a reload too, and not under another", () => {
    const keep = storage();
    const texts = new KeptTexts(() => keep);
    texts.write("one", "Half a thought");
    expect([texts.read("one"), texts.read("other")]).toEqual(["Half a thought", ""]);
    expect(new KeptTexts(() => keep).read("one")).toBe("Half a thought");
  });

  it("comes after what was not taken, under the name of that", () => {
    const keep = storage();
    const texts = new KeptTexts(() => keep);
    texts.write("one", "typed since");
    texts.giveBack("one", "not taken");
    texts.giveBack("other", "alone");
    expect([texts.read("one"), texts.read("other")]).toEqual(["not taken\ntyped since", "alone"]);
  });

  it("takes no room once it is sent, and those who show it are told", () => {
    const keep = storage();
    const texts = new KeptTexts(() => keep);
    const told = vi.fn();
    const leave = texts.subscribe("one", told);
    texts.write("one", "x");
    texts.write("one", "");
    leave();
    texts.write("one", "");
    expect([keep.all.size, told.mock.calls.length]).toEqual([0, 2]);
  });

  it("is lost with the page at worst where the browser keeps nothing", () => {
    const warn = vi.spyOn(console, "warn").mockImplementation(() => {});
    const broken = () => {
      throw new DOMException("The quota has been exceeded.");
    };
    const texts = new KeptTexts(() => ({ getItem: broken, setItem: broken, removeItem: broken }));
    texts.write("new", "x");
    expect(texts.read("new")).toBe("x");
    texts.giveBack("new", "w");
    expect(texts.read("new")).toBe("w\nx");
    expect(warn).toHaveBeenCalled();
    warn.mockRestore();
  });
});
