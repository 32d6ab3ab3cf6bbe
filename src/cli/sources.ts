import { readFileSync } from "node:fs";
import { basename } from "node:path";
import { setTimeout as rest } from "node:timers/promises";
import { apps } from "@/contract/apps";
import { Client } from "@/contract/client";
import { type Source, sources } from "@/contract/sources";
import { told } from "./calling";
import type { Paper } from "./paper";

/** Milliseconds between two looks at how far documents are read. */
const pause = 250;

/** Adds files and addresses as documents of an app, has its draft answer from them, and waits until they are read. @returns the exit code */
export async function addSources(
  slug: string,
  documents: readonly string[],
  { at, thisMachine }: { at: string; thisMachine?: boolean },
  paper: Paper,
): Promise<number> {
  const client = new Client(at);
  const files = new Map<string, Buffer>();
  for (const document of documents.filter((each) => !isAddress(each)))
    try {
      files.set(document, readFileSync(document));
    } catch (error) {
      paper.warn(`${document} can't be read (${(error as NodeJS.ErrnoException).code}).`);
      return 2;
    }
  const added: Source[] = [];
  let unread: Source[] = [];
  const code = await told(at, paper, async () => {
    for (const document of documents) {
      const bytes = files.get(document);
      added.push(
        bytes
          ? await client.sendBytes(sources.addFile, { slug, name: basename(document) }, new Uint8Array(bytes))
          : await client.send(sources.addAddress, { slug, body: { url: document, allowsThisMachine: thisMachine } }),
      );
    }
    await answerFrom(client, slug, added);
    unread = await whenRead(client, slug, added, paper);
  });
  for (const { title, problem } of unread) paper.warn(`${title}: ${problem?.detail} ${problem?.advice}`);
  return code === 0 && unread.length > 0 ? 1 : code;
}

/** Lists the documents of an app. @returns the exit code */
export async function listSources(
  slug: string,
  { at, json }: { at: string; json?: boolean },
  paper: Paper,
): Promise<number> {
  return told(at, paper, async () => {
    const { sources: all } = await new Client(at).send(sources.list, { slug });
    for (const source of all) paper.say(json ? `${JSON.stringify(source)}\n` : `${lineOf(source)}\n`);
  });
}

function isAddress(document: string): boolean {
  return /^https?:\/\//i.test(document);
}

/** Has the draft answer from documents, each as it was handed in. */
async function answerFrom(client: Client, slug: string, added: readonly Source[]): Promise<void> {
  const { draft, draftHash } = await client.send(apps.read, { slug });
  const ids = new Set(added.map(({ id }) => id));
  const others = (draft.sources?.documents ?? []).filter(({ source }) => !ids.has(source));
  const documents = [...others, ...added.map(({ id, hash }) => ({ source: id, version: hash }))];
  await client.send(apps.setDraft, {
    slug,
    body: { content: { ...draft, sources: { ...draft.sources, documents } }, draftHash },
  });
}

/** Waits until documents are read, and tells how far that is. @returns those that can't be */
async function whenRead(client: Client, slug: string, added: readonly Source[], paper: Paper): Promise<Source[]> {
  const ids = new Set(added.map(({ id }) => id));
  for (;;) {
    const all = (await client.send(sources.list, { slug })).sources.filter(({ id }) => ids.has(id));
    const open = all.filter(({ isRead, passages, problem }) => !problem && !(isRead && passages !== null));
    const [first] = open;
    if (!first) {
      for (const source of all) if (!source.problem) paper.say(`${lineOf(source)}\n`);
      return all.filter(({ problem }) => problem !== null);
    }
    paper.progress(
      `reads ${first.title}${first.parts !== null && first.parts > 1 ? `: page ${first.partsRead} of ${first.parts}` : ""}`,
    );
    await rest(pause);
  }
}

function lineOf({ title, kind, parts, passages, tokens, unread }: Source): string {
  const pages = kind === "pdf" && parts !== null ? `, ${parts} pages` : "";
  const left = unread.length > 0 ? `, ${unread.length} of them can't be read` : "";
  const cut = passages === null ? "not cut yet" : `${passages} passages, ${tokens} tokens`;
  return `${title} (${kind}${pages}${left}): ${cut}`;
}
