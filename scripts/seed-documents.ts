import { existsSync, readFileSync } from "node:fs";
import { z } from "zod";
import { kindOf, looksAt } from "@/core/sources/kinds";
import { shortNameFor } from "@/core/sources/marks";
import type { Origin } from "@/core/sources/origin";
import { newId } from "@/server/ground/id";
import type { Home } from "@/server/home";
import { handbook } from "./handbook";

const seededDocument = z.object({
  title: z.string(),
  /** In the folder of documents; or made by a script, under a name. */
  file: z.string().optional(),
  made: z.string().optional(),
  /** Whether the demo serves it as a page. */
  isServed: z.boolean().default(false),
});

/** Port of the site of the demo, after those of the stand-ins. */
export const sitePort = Number(process.env.FINCH_STANDINS ?? 4610) + 5;

/** A document before its app is there. */
type Prepared = Omit<Parameters<Home["sources"]["add"]>[0], "app" | "id"> & { id: string };

/** Keeps the documents of an app's folder; gives how its content names them, and what is to be added once the app is there. */
export function preparedDocuments(home: Home, folder: string): Prepared[] {
  const list = `${folder}/documents.json`;
  if (!existsSync(list)) return [];
  const taken = new Set<string>();
  return z
    .array(seededDocument)
    .parse(JSON.parse(readFileSync(list, "utf8")))
    .map(({ title, file, made, isServed }) => {
      const bytes = made ? handbook() : readFileSync(`${folder}/documents/${file}`);
      const kind = kindOf(bytes.subarray(0, looksAt));
      if (kind.kind === "unreadable") throw new Error(`${title} is ${kind.is}.`);
      const { hash } = home.documents.keep(bytes, kind.kind, Date.now());
      const url = `http://127.0.0.1:${sitePort}/${file}`;
      const origin: Origin = isServed
        ? { kind: "address", url, allowsThisMachine: true }
        : { kind: "file", name: made ?? file ?? title };
      const short = shortNameFor(title, taken);
      taken.add(short);
      return { id: newId("src"), title, short, origin, hash };
    });
}

/** Questions with the words that answer them, in the document of a title. */
export const seededQuestions = z.array(z.object({ question: z.string(), document: z.string(), holds: z.string() }));

/** Adds the questions by which it is measured how well documents are found, where the folder has some. */
export function addQuestions(home: Home, app: string, folder: string, documents: readonly Prepared[]): void {
  const list = `${folder}/questions.json`;
  if (!existsSync(list)) return;
  for (const { question, document, holds: quote } of seededQuestions.parse(JSON.parse(readFileSync(list, "utf8")))) {
    const source = documents.find(({ title }) => title === document)?.id;
    if (source === undefined) throw new Error(`There is no document ${document}.`);
    home.retrieval.add(app, { question, quote, source, comes: "typed", isAsked: true }, Date.now());
  }
}

/** Adds them to their app, and has them read when the server starts. */
export function addDocuments(home: Home, app: string, documents: readonly Prepared[]): void {
  for (const document of documents) home.sources.add({ ...document, app }, Date.now());
  const [first] = documents;
  if (first)
    home.jobs.add(app, { kind: "reading", title: first.title, source: first.id, phase: "reading" }, null, Date.now());
}
