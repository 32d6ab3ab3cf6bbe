import { afterEach, beforeEach, expect, it } from "vitest";
import { accessSchema } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import type { Home } from "../home";
import { DocumentReader } from "../sources/reading";
import { addFile } from "../sources/sources";
import { handInFile } from "../sources/visitor-documents";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";
import { OneByOne, runReading } from "./reading-job";

let home: Home;
let remove: () => void;
beforeEach(() => {
  ({ home, remove } = testFolder());
});
afterEach(() => remove());

const access = accessSchema.parse({ documents: { from: ["calls"], most: 10 } });

/** Hands in so many documents of one visitor. */
function handIn(app: StoredApp, count: number): string[] {
  const visitor = home.visitors.add(app.id, { name: "ann" }, 1);
  const by = { app: { id: app.id, access }, from: "calls", visitor, begin: () => visitor } as const;
  return Array.from({ length: count }, (_, at) => {
    const text = `Paper ${at} of ${app.slug}.`;
    return handInFile(home, by, `paper-${at}.md`, Buffer.from(text), 1).hash;
  });
}

const own = (app: StoredApp, name: string) => addFile(home, app.id, name, Buffer.from(`${name} of ${app.slug}`)).hash;

/** Reads all that is due of some apps at once, and gives the documents in the order in which they were read. */
async function read(...apps: StoredApp[]): Promise<string[]> {
  const order: string[] = [];
  const { setRead } = home.documents;
  home.documents.setRead = (hash, at) => {
    order.push(hash);
    setRead.call(home.documents, hash, at);
  };
  const shared = { turns: new OneByOne(), reader: new DocumentReader() };
  const work = { kind: "reading", title: "", source: "", phase: "reading" } as const;
  const jobs = apps.map((app) => home.jobs.add(app.id, work, null, 1));
  await Promise.all(jobs.map((job) => runReading(home, job, new AbortController().signal, shared)));
  return order;
}

it("a visitor who hands in many documents keeps those of the app waiting for one each", async () => {
  const app = home.apps.make("Desk", plainContent, 1);
  const visitors = handIn(app, 4);
  const owns = [own(app, "rules.md"), own(app, "rota.md")];
  const order = await read(app);
  // a turn may also go to cutting what was read
  const before = owns.map((hash) => order.slice(0, order.indexOf(hash)).filter((each) => visitors.includes(each)));
  expect(before.map(({ length }) => length)).toEqual([1, 1]);
  expect(order.toSorted()).toEqual([...visitors, ...owns].toSorted());
});

it("an app with many documents keeps another waiting for one", async () => {
  const [desk, quay] = [home.apps.make("Desk", plainContent, 1), home.apps.make("Quay", plainContent, 1)];
  for (const name of ["one.md", "two.md", "three.md"]) own(desk, name);
  const rules = own(quay, "rules.md");
  expect((await read(desk, quay)).indexOf(rules)).toBe(1);
});
