import { existsSync } from "node:fs";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import type { Content } from "@/core/revision/content";
import type { Digest } from "@/core/sources/digest";
import { countsOf } from "@/core/tokens/counts";
import type { Home } from "../home";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { findByWords, rankOf } from "./finding";
import type { StoredSource } from "./source-store";
import { addCopies, addFile, renameSource, withCopies } from "./sources";
import { countsOfWholes, findFor, wholesOf } from "./whole";

let home: Home;
let remove: () => void;
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => remove());

const appOf = (name: string) => home.apps.make(name, plainContent, 1).id;
const handIn = (app: string, name: string, text: string) => addFile(home, app, name, Buffer.from(text));

/** Cuts a document into a passage for each of some texts. */
function cut({ hash }: StoredSource, texts: readonly string[]): void {
  const cutting = home.passages.begin({ hash, size: 180, overlap: 20 });
  const passages = texts.map((text, at) => ({ text, from: at * 100, to: at * 100 + text.length, headings: ["Rules"] }));
  home.passages.add(cutting, 1, passages);
  home.passages.finish(cutting, texts.length, 100);
}

const from = (...sources: StoredSource[]): Content => ({
  ...plainContent,
  sources: { documents: sources.map(({ id }) => ({ source: id })) },
});

describe("what a message finds", () => {
  it("is of the documents that a content names, at the version that it names, the best first", () => {
    const app = appOf("Desk");
    const rules = handIn(app, "rules.md", "# Rules\n\nThe old ones.");
    const other = handIn(app, "other.md", "# Other\n\nDogs and cats.");
    cut(rules, ["Dogs travel free.", "Bicycles cost €2.00; dogs don't."]);
    cut(other, ["Dogs everywhere, dogs."]);
    const { found } = findByWords(home, from(rules), "Do dogs travel free?");
    expect(found.map(({ title, text, likeness }) => [title, text, likeness === 1])).toEqual([
      ["Rules", "Dogs travel free.", true],
      ["Rules", "Bicycles cost €2.00; dogs don't.", false],
    ]);
    expect(findByWords(home, from(rules, other), "dogs").found).toHaveLength(3);
    const fixed: Content = { ...plainContent, sources: { documents: [{ source: rules.id, version: rules.hash }] } };
    const newer = handIn(app, "rules.md", "# Rules\n\nThe new ones.");
    expect(newer).toMatchObject({ id: rules.id, title: "Rules" });
    expect(newer.hash).not.toBe(rules.hash);
    expect(findByWords(home, fixed, "dogs").found).toHaveLength(2);
    // what follows has a version that is not cut yet
    expect(findByWords(home, from(newer), "dogs")).toEqual({ found: [], unready: [rules.id] });
  });

  it("is found by a heading, in any script, and not by signs that the index would take for a command", () => {
    const rules = handIn(appOf("Desk"), "rules.md", "# Rules\n\nText.");
    cut(rules, ["渡し船は九時四十分に出ます。", "Nothing of the kind."]);
    const texts = (message: string) => findByWords(home, from(rules), message).found.map(({ text }) => text);
    expect(texts("船は何時に出ますか")).toEqual(["渡し船は九時四十分に出ます。"]);
    expect(texts("the rules")).toHaveLength(2);
    expect(texts('cutting : c1 OR "')).toEqual([]);
    expect(texts("?!")).toEqual([]);
  });

  it("has a rank also beyond those that are looked at", async () => {
    const rules = handIn(appOf("Desk"), "rules.md", "# Rules\n\nText.");
    cut(rules, [
      ...Array.from({ length: 60 }, () => "dog dog dog"),
      "A dog, and much else that is said of boats here.",
    ]);
    const { found } = findByWords(home, from(rules), "dog");
    expect(found).toHaveLength(40);
    const last = home.passages.ofCutting(1).at(-1);
    expect(await rankOf(home, rules.app, from(rules), "dog", String(last?.id))).toBe(61);
    expect(await rankOf(home, rules.app, from(rules), "dog", String(found[3]?.passage))).toBe(4);
    expect(await rankOf(home, rules.app, from(rules), "cat", String(last?.id))).toBeNull();
  });

  it("is put in order by what its own documents say, whatever other apps have", () => {
    const rules = handIn(appOf("Desk"), "rules.md", "# Rules\n\nText.");
    const texts = [
      "A bicycle costs €2.00.",
      "Dogs travel free, and cost nothing.",
      "Fog costs time.",
      "Ring the bell.",
    ];
    cut(rules, texts);
    const order = () => findByWords(home, from(rules), "What does a bicycle cost?").found.map(({ text }) => text);
    const before = order();
    expect(before[0]).toBe(texts[0]);
    cut(
      handIn(appOf("Other"), "bicycles.md", "# Bicycles\n\nText."),
      Array.from({ length: 50 }, (_, at) => `Bicycle ${at} and its bell.`),
    );
    expect(order()).toEqual(before);
  });
});

describe("documents of an app", () => {
  it("have names in marks of their own, and refuse one that is taken", () => {
    const app = appOf("Desk");
    const [one, other] = [
      handIn(app, "luggage-rules.md", "# One\n\nText."),
      handIn(app, "luggage.md", "# Two\n\nText."),
    ];
    expect(one.short).not.toBe(other.short);
    expect(() => renameSource(home, other, { short: one.short })).toThrow("is called");
    expect(renameSource(home, other, { short: "trunks" }).short).toBe("trunks");
  });

  it.each([
    ["boat.png", "\u0089PNG\r\n\u001a\n", "a picture (PNG)"],
    ["empty.txt", " \n", "empty"],
  ])("are no such files as %s", (name, bytes, why) => {
    expect(() => addFile(home, appOf("Desk"), name, Buffer.from(bytes, "latin1"))).toThrow(why);
  });

  it("are copied along with an app, and a copy answers from its own", () => {
    const app = appOf("Desk");
    const rules = handIn(app, "rules.md", "# Rules\n\nText.");
    const { content, copies } = withCopies(from(rules));
    const copy = home.apps.make("Copy", content, 1);
    addCopies(home, copy.id, copies);
    const [own] = home.sources.ofApp(copy.id);
    expect(own).toMatchObject({ title: "Rules", hash: rules.hash });
    expect(own?.id).not.toBe(rules.id);
    expect(content.sources?.documents).toEqual([{ source: own?.id }]);
  });

  it("leave their bytes, what was read and the index behind only for as long as something names them", () => {
    const app = appOf("Desk");
    const rules = handIn(app, "rules.md", "# Rules\n\nText.");
    cut(rules, ["Dogs travel free."]);
    const path = home.documents.pathOf(rules.hash);
    const fixed: Content = { ...plainContent, sources: { documents: [{ source: rules.id, version: rules.hash }] } };
    home.contents.keep(fixed, 1);
    home.sources.delete(rules.id);
    home.documents.sweep(Number.MAX_SAFE_INTEGER, 10);
    expect(existsSync(path)).toBe(true);
    home.contents.sweep(Number.MAX_SAFE_INTEGER, 10);
    home.documents.sweep(Number.MAX_SAFE_INTEGER, 10);
    expect([existsSync(path), home.documents.find(rules.hash)]).toEqual([false, undefined]);
    expect(home.passages.find([1], ["dog"])).toEqual([]);
  });
});

describe("a document that goes along whole", () => {
  const whole = ({ id, hash }: StoredSource, digest?: Digest): Content => ({
    ...plainContent,
    sources: { documents: [{ source: id, version: hash, whole: { digest } }] },
  });
  const read = ({ hash }: StoredSource, text: string) => {
    home.documents.addPart(hash, 1, [{ kind: "paragraph", text }], null);
    home.documents.setRead(hash, 5);
  };

  it("is all of it, whatever is asked, and nothing of it is looked for", async () => {
    const rules = handIn(appOf("Desk"), "rules.md", "Dogs travel free.");
    expect(wholesOf(home, whole(rules))).toEqual({ found: [], unready: [rules.id] });
    read(rules, "Dogs travel free.");
    cut(rules, ["Dogs travel free."]);
    expect(wholesOf(home, whole(rules)).found).toMatchObject([
      { whole: "text", text: "Dogs travel free.", likeness: 1 },
    ]);
    expect(findByWords(home, whole(rules), "dogs")).toEqual({ found: [], unready: [] });
    const { found } = await findFor(home, "app", whole(rules), "dogs");
    expect(found.map(({ passage }) => passage)).toEqual([`whole ${rules.id}`]);
    expect(countsOfWholes(home, whole(rules))).toEqual(countsOf("Dogs travel free."));
    expect(countsOfWholes(home, plainContent)).toBeUndefined();
  });

  it("is its digest where that was made of these bytes, and nothing where it is too long without one", () => {
    const rules = handIn(appOf("Desk"), "rules.md", "Long.");
    read(rules, "Dogs travel free. ".repeat(4_000));
    const digest = {
      of: rules.hash,
      text: "Dogs: free.",
      characters: 1,
      tokens: 1,
      unread: [],
      stretches: 1,
      passes: 1,
      cut: 0,
    };
    expect(wholesOf(home, whole(rules)).unready).toEqual([rules.id]);
    expect(wholesOf(home, whole(rules, digest)).found).toMatchObject([{ whole: "digest", text: "Dogs: free." }]);
    expect(wholesOf(home, whole(rules, { ...digest, of: "b".repeat(64) })).unready).toEqual([rules.id]);
  });
});
