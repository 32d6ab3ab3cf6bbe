import { describe, expect, it, vi } from "vitest";
import { type Focus, KeyLayer, type Layer } from "./key-layer";

/** Something of a page that holds others, as far as keys look at it. */
function place(...within: Element[]): HTMLElement {
  const element = {
    contains: (other: unknown) =>
      other === element || within.some((each) => each === other || each.contains(other as Node)),
  };
  return element as unknown as HTMLElement;
}

function press(key: string, change: Partial<KeyboardEvent> = {}) {
  return {
    key,
    code: "",
    altKey: false,
    ctrlKey: false,
    metaKey: false,
    shiftKey: false,
    defaultPrevented: false,
    isComposing: false,
    preventDefault: vi.fn(),
    stopPropagation: vi.fn(),
    ...change,
  };
}

const nowhere: Focus = { element: null, isWriting: false, isBusy: false };
const at = (element: Element, isWriting = false): Focus => ({ element, isWriting, isBusy: false });
const layer = (root: HTMLElement) => ({ root: () => root, close: vi.fn<() => void>() }) satisfies Layer;

describe("Escape", () => {
  it("closes what the focus is in, the innermost first, and nothing else", () => {
    const keys = new KeyLayer();
    const field = place();
    const inner = layer(place(field));
    const outer = layer(place(inner.root() as HTMLElement, field));
    const stop = vi.fn();
    keys.open(outer);
    keys.open(inner);
    keys.hear({ scope: "build", act: (id) => (id === "close" ? stop : undefined) });
    const event = press("Escape");
    keys.handle(event, at(field, true));
    expect([inner.close, outer.close, stop].map(({ mock }) => mock.calls.length)).toEqual([1, 0, 0]);
    expect(event.stopPropagation).toHaveBeenCalled();
  });

  it("stops the reply where the focus is in nothing that is open, and closes what was opened last where there is none", () => {
    const keys = new KeyLayer();
    const [first, second] = [layer(place()), layer(place())];
    keys.open(first);
    const leave = keys.open(second);
    const stop = vi.fn(() => isUnderWay);
    let isUnderWay = true;
    keys.hear({ scope: "build", act: (id) => (id === "close" ? stop : undefined) });
    keys.handle(press("Escape"), nowhere);
    expect([stop.mock.calls.length, second.close.mock.calls.length]).toEqual([1, 0]);
    isUnderWay = false;
    keys.handle(press("Escape"), nowhere);
    expect([first.close.mock.calls.length, second.close.mock.calls.length]).toEqual([0, 1]);
    leave();
    keys.handle(press("Escape"), nowhere);
    expect(first.close).toHaveBeenCalledTimes(1);
  });

  it("is left to a list or a dialog that is open, and to whoever ended it", () => {
    const keys = new KeyLayer();
    const open = layer(place());
    keys.open(open);
    keys.handle(press("Escape"), { ...nowhere, isBusy: true });
    keys.handle(press("Escape", { defaultPrevented: true }), nowhere);
    keys.handle(press("Escape", { isComposing: true }), nowhere);
    expect(open.close).not.toHaveBeenCalled();
  });
});

describe("a key of a view", () => {
  const heard = () => {
    const keys = new KeyLayer();
    const act = vi.fn<(at: number) => void>();
    const leave = keys.hear({ scope: "build", act: () => act });
    return { keys, act, leave };
  };

  it("does what it is for, and is ended", () => {
    const { keys, act } = heard();
    const event = press("3", { altKey: true, code: "Digit3" });
    keys.handle(event, nowhere);
    expect(act).toHaveBeenCalledWith(2);
    expect(event.preventDefault).toHaveBeenCalled();
  });

  it("is heard where one writes only beside Alt", () => {
    const { keys, act } = heard();
    keys.handle(press("/"), at(place(), true));
    expect(act).not.toHaveBeenCalled();
    keys.handle(press("n", { altKey: true }), at(place(), true));
    expect(act).toHaveBeenCalledTimes(1);
  });

  it("is heard by the view that was opened last, and by none that left", () => {
    const { keys, act, leave } = heard();
    const other = vi.fn<(at: number) => void>();
    const leaveOther = keys.hear({ scope: "build", act: () => other });
    keys.handle(press("n", { altKey: true }), nowhere);
    expect([act.mock.calls.length, other.mock.calls.length]).toEqual([0, 1]);
    leaveOther();
    leave();
    const event = press("n", { altKey: true });
    keys.handle(event, nowhere);
    expect(event.preventDefault).not.toHaveBeenCalled();
  });
});
