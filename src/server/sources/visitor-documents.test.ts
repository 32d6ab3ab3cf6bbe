import { existsSync } from "node:fs";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { accessSchema } from "@/core/serving/access";
import type { FoundPassage } from "@/core/sources/found";
import type { StoredApp } from "../apps/app-store";
import type { Home } from "../home";
import { forgetDocument } from "../tending/deleting";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { findByWords } from "./finding";
import { addFile } from "./sources";
import type { VisitorDocument } from "./visitor-document-store";
import { checkHanding, type Handing, handInFile, noted, standingOf, withOwnOf } from "./visitor-documents";

let home: Home;
let remove: () => void;
let app: StoredApp;
beforeEach(() => {
  ({ home, remove } = testFolder());
  app = home.apps.make("Desk", plainContent, 1);
});
afterEach(() => remove());

const access = accessSchema.parse({ documents: { from: ["calls"], most: 2 } });
const visitor = (name: string) => home.visitors.add(app.id, { name }, 1);
const by = (who: string): Handing => ({
  app: { id: app.id, access },
  from: "calls",
  visitor: who,
  begin: () => who,
});
const handIn = (who: string, name: string, text: string) => handInFile(home, by(who), name, Buffer.from(text), 1);

function cut({ hash }: { hash: string }, text: string): void {
  const cutting = home.passages.begin({ hash, size: 180, overlap: 20 });
  home.passages.add(cutting, 1, [{ text, from: 0, to: text.length, headings: [] }]);
  home.passages.finish(cutting, 1, 10);
}

const foundFor = (who: string | null) =>
  findByWords(home, withOwnOf(home, access, plainContent, who), "dogs").found.map(({ text }) => text);

describe("a visitor's document", () => {
  it("is looked through for its visitor, and for nobody else; nor where none are taken any more", () => {
    const [ann, ivo] = [visitor("ann"), visitor("ivo")];
    cut(handIn(ann, "rules.md", "Dogs travel free."), "Dogs travel free.");
    expect([foundFor(ann), foundFor(ivo), foundFor(null)]).toEqual([["Dogs travel free."], [], []]);
    const closed = accessSchema.parse({});
    expect(withOwnOf(home, closed, plainContent, ann)).toBe(plainContent);
  });

  it("has a short name that neither the app's documents nor its visitor's others have", () => {
    const ann = visitor("ann");
    addFile(home, app.id, "rules.md", Buffer.from("Rules."));
    const shorts = [handIn(ann, "rules.txt", "One."), handIn(ann, "Rules.pdf.md", "Two.")].map(({ short }) => short);
    expect(new Set(["rules", ...shorts]).size).toBe(3);
    expect(handIn(visitor("ivo"), "rules.txt", "One.").short).toBe(shorts[0]);
  });

  it("is one of so many, of which the newer of a name is no further one", () => {
    const ann = visitor("ann");
    const first = handIn(ann, "rules.md", "One.");
    handIn(ann, "rota.md", "Two.");
    expect(() => handIn(ann, "third.md", "Three.")).toThrow(/may have 2 documents/);
    const newer = handIn(ann, "rules.md", "One, put right.");
    expect([newer.id, newer.hash === first.hash]).toEqual([first.id, false]);
    expect(() => checkHanding(home, by(ann), { kind: "file", name: "rota.md" })).not.toThrow();
    expect(() => checkHanding(home, { ...by(ann), from: "page" }, { kind: "file", name: "rota.md" })).toThrow(
      /no documents/,
    );
  });

  it("is ready once it is read and cut, and says why where it can't be", () => {
    const document = handIn(visitor("ann"), "rules.md", "Dogs.");
    const standing = (isCut: boolean) => standingOf(home, document, () => isCut).state;
    expect(standing(true)).toBe("reading");
    home.documents.setRead(document.hash, 5);
    expect([standing(false), standing(true)]).toEqual(["reading", "ready"]);
    home.documents.setProblem(document.hash, { kind: "bad-request", detail: "The document is broken.", advice: "" });
    expect(standingOf(home, document, () => true)).toMatchObject({
      state: "failed",
      problem: { detail: "The document is broken." },
    });
  });

  it("is due until it is read, and cut in each way that is wanted", () => {
    const document = handIn(visitor("ann"), "rules.md", "Dogs.");
    const cuts = [
      { size: 180, overlap: 20 },
      { size: 60, overlap: 0 },
    ];
    const due = (wanted = cuts) => home.visitorDocuments.due(app.id, wanted)?.id;
    expect(due()).toBe(document.id);
    home.documents.setRead(document.hash, 5);
    cut(document, "Dogs.");
    expect([due(), due([cuts[0] as (typeof cuts)[0]])]).toEqual([document.id, undefined]);
    expect(home.visitorDocuments.due(home.apps.make("Other", plainContent, 1).id, cuts)).toBeUndefined();
    expect(home.visitorDocuments.cuttings(app.id, { size: 180, overlap: 20 })).toHaveLength(1);
  });
});

describe("the bytes of a document that is forgotten", () => {
  const forget = ({ id }: VisitorDocument) => home.visitorDocuments.delete(id);
  const stands = ({ hash }: VisitorDocument) => [
    existsSync(home.documents.pathOf(hash)),
    home.documents.find(hash) !== undefined,
  ];

  it("leave with what was read of them, their passages and their vectors", async () => {
    const document = handIn(visitor("ann"), "rules.md", "Dogs.");
    home.documents.addPart(document.hash, 1, [], null);
    cut(document, "Dogs travel free.");
    const space = home.vectors.begin({ provider: "looms", model: "weft" }, new Float32Array([1, 0]));
    const [wanted] = home.vectors.missing(
      home.visitorDocuments.cuttings(app.id, { size: 180, overlap: 20 }),
      space.id,
      9,
    );
    home.vectors.add(space.id, [{ hash: wanted?.hash ?? "", vector: new Float32Array([0, 1]) }]);
    forget(document);
    await home.removal.start();
    expect(stands(document)).toEqual([false, false]);
    const rows = (table: string) => home.database.prepare(`SELECT count(*) FROM ${table}`).pluck().get();
    expect(["document_parts", "cuttings", "passages", "vectors", "leaving_documents"].map(rows)).toEqual([
      0, 0, 0, 0, 0,
    ]);
    // what a call brings that was under way meanwhile is kept no more
    home.vectors.add(space.id, [{ hash: wanted?.hash ?? "", vector: new Float32Array([0, 1]) }]);
    expect(rows("vectors")).toBe(0);
  });

  it("stay where another visitor, or the app, has them too", async () => {
    const document = handIn(visitor("ann"), "rules.md", "Dogs.");
    const other = handIn(visitor("ivo"), "mine.md", "Dogs.");
    forget(document);
    await home.removal.start();
    expect(stands(other)).toEqual([true, true]);
    addFile(home, app.id, "rules.md", Buffer.from("Dogs."));
    forget(other);
    await home.removal.start();
    expect(stands(other)).toEqual([true, true]);
  });

  it("leave with their visitor, and where a newer version takes their place", async () => {
    const ann = visitor("ann");
    const first = handIn(ann, "rules.md", "One.");
    const newer = handIn(ann, "rules.md", "Two.");
    await home.removal.start();
    expect([stands(first), stands(newer)]).toEqual([
      [false, false],
      [true, true],
    ]);
    home.database.prepare("DELETE FROM visitors WHERE id = ?").run(ann);
    await home.removal.start();
    expect(stands(newer)).toEqual([false, false]);
  });
});

it("a document is forgotten with all conversations in which something of it was found, or not at all", async () => {
  const ann = visitor("ann");
  const document = handIn(ann, "rules.md", "Dogs.");
  const begun = { app: app.id, visitor: ann, origin: "http" as const, opening: "Dogs?", now: 1 };
  const [first, second] = [home.conversations.create(begun), home.conversations.create(begun)];
  const [found] = [{ source: document.id, likeness: 1 } as FoundPassage];
  expect(noted(home, ann, first.id, [found, { ...found, likeness: 0.01 }])).toEqual([found]);
  noted(home, ann, second.id, [{ ...found, likeness: 0.01 }]);
  const { leave } = home.conversations;
  home.conversations.leave = () => {
    throw new Error("The disk is full.");
  };
  await expect(forgetDocument(home, document)).rejects.toThrow("full");
  expect(home.visitorDocuments.byId(document.id)).toEqual(document);
  home.conversations.leave = leave;
  await forgetDocument(home, document);
  expect(home.visitorDocuments.byId(document.id)).toBeUndefined();
  expect([home.conversations.byId(first.id), home.conversations.byId(second.id)?.id]).toEqual([undefined, second.id]);
});
