import { describe, expect, it, vi } from "vitest";
import { textUnder, write } from "./kept-text";

function storage(): Storage & { all: Map<string, string> } {
  const all = new Map<string, string>();
  return {
    all,
    length: 0,
    clear: () => all.clear(),
    key: () => null,
    getItem: (name) => all.get(name) ?? null,
    setItem: (name, text) => void all.set(name, text),
    removeItem: (name) => void all.delete(name),
  };
}

describe("what is typed", () => {
  it("is found again under its conversation, and not under another", () => {
    const keep = storage();
    write(keep, { name: "one", text: "Half a thought" });
    expect(textUnder(keep, "one", { name: "one", text: "" }, false).text).toBe("Half a thought");
    expect(textUnder(keep, "other", { name: "one", text: "Half a thought" }, false).text).toBe("");
    expect(keep.all.get("one")).toBe("Half a thought");
  });

  it("goes along into the conversation that it was begun with, and stays nowhere else", () => {
    const keep = storage();
    write(keep, { name: "new", text: "And next" });
    expect(textUnder(keep, "con_1", { name: "new", text: "And next" }, true)).toEqual({
      name: "con_1",
      text: "And next",
    });
    expect([...keep.all.keys()]).toEqual([]);
  });

  it("takes no room once it is sent", () => {
    const keep = storage();
    write(keep, { name: "one", text: "x" });
    write(keep, { name: "one", text: "" });
    expect(keep.all.size).toBe(0);
  });

  it("is lost with the page at worst where the browser keeps nothing", () => {
    const warn = vi.spyOn(console, "warn").mockImplementation(() => {});
    const broken = () => {
      throw new DOMException("The quota has been exceeded.");
    };
    const keep = { getItem: broken, setItem: broken, removeItem: broken };
    write(keep, { name: "one", text: "x" });
    expect(textUnder(keep, "one", { name: "", text: "" }, false).text).toBe("");
    expect(warn).toHaveBeenCalledOnce();
    warn.mockRestore();
  });
});
