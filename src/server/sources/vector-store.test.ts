import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { unitVector } from "@/core/sources/meaning";
import type { Home } from "../home";
import { testFolder } from "../test/folder";
import { VectorStore } from "./vector-store";

let home: Home;
let remove: () => void;
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => remove());

const of = { provider: "looms", model: "weft" };
const unit = (...numbers: number[]) => unitVector(numbers) ?? expect.unreachable();

/** Cuts a document into a passage for each of some texts; gives its cutting. */
function cut(name: string, texts: readonly string[]): number {
  const { hash } = home.documents.keep(Buffer.from(name), "text", 1);
  const cutting = home.passages.begin({ hash, size: 180, overlap: 20 });
  home.passages.add(
    cutting,
    1,
    texts.map((text, at) => ({ text, from: at, to: at + 1, headings: [] })),
  );
  home.passages.finish(cutting, texts.length, 10);
  return cutting;
}

/** Gives all passages that have none a vector. */
function fill(cutting: number, space: number, vector: Float32Array): number {
  const missing = home.vectors.missing([cutting], space, 100);
  home.vectors.add(
    space,
    missing.map(({ hash }) => ({ hash, vector })),
  );
  return missing.length;
}

describe("vectors that are kept", () => {
  it("are one for each text, whichever documents have it", () => {
    const { id } = home.vectors.begin(of, unit(1, 0));
    const first = cut("a", ["Dogs travel free.", "Bicycles cost €2.00."]);
    expect(fill(first, id, unit(1, 0))).toBe(2);
    const second = cut("b", ["Dogs travel free.", "Dogs travel free.", "Cats don't."]);
    expect(home.vectors.counts([second], id)).toEqual({ passages: 3, made: 2 });
    expect(fill(second, id, unit(0, 1))).toBe(1);
    expect(home.vectors.counts([first, second], id)).toEqual({ passages: 5, made: 5 });
    expect(home.vectors.counts([first], undefined)).toEqual({ passages: 2, made: 0 });
  });

  it("are those of the newest space, also where one of the same model was dropped, and while some were under way for it", () => {
    const reading = new VectorStore(home.database);
    const cutting = cut("a", ["Dogs travel free."]);
    const before = home.vectors.begin(of, unit(1, 0));
    fill(cutting, before.id, unit(1, 0));
    expect([...reading.matrix(before, cutting).numbers]).toEqual([1, 0]);
    home.vectors.drop(of);
    const [missing] = home.vectors.missing([cutting], before.id, 1);
    home.vectors.add(before.id, [{ hash: missing?.hash ?? "", vector: unit(1, 0) }]);
    const after = home.vectors.begin(of, unit(0, 1));
    expect(home.vectors.counts([cutting], after.id).made).toBe(0);
    fill(cutting, after.id, unit(0, 1));
    expect([...reading.matrix(after, cutting).numbers]).toEqual([0, 1]);
  });

  it("are those of the passages that are there, also where a cutting is made anew under the id of another", () => {
    const reading = new VectorStore(home.database);
    const space = home.vectors.begin(of, unit(1, 0));
    const first = cut("a", ["Dogs travel free."]);
    fill(first, space.id, unit(1, 0));
    expect([...reading.matrix(space, first).numbers]).toEqual([1, 0]);
    home.database.prepare("DELETE FROM cuttings WHERE id = ?").run(first);
    const second = cut("b", ["Cats don't."]);
    expect(second).toBe(first);
    fill(second, space.id, unit(0, 1));
    expect([...reading.matrix(space, second).numbers]).toEqual([0, 1]);
  });

  it("are gone with the last passage that has their text", () => {
    const { id } = home.vectors.begin(of, unit(1, 0));
    const [first, second] = [cut("a", ["Dogs travel free."]), cut("b", ["Dogs travel free.", "Cats don't."])];
    fill(second, id, unit(1, 0));
    const count = () => home.database.prepare("SELECT count(*) FROM vectors").pluck().get();
    home.database.prepare("DELETE FROM cuttings WHERE id = ?").run(second);
    home.vectors.sweep(100);
    expect([home.vectors.counts([first], id).made, count()]).toEqual([1, 1]);
    home.database.prepare("DELETE FROM cuttings WHERE id = ?").run(first);
    home.vectors.sweep(100);
    expect(count()).toBe(0);
  });
});
