import { readFileSync } from "node:fs";
import { basename } from "node:path";
import { setTimeout as rest } from "node:timers/promises";
import { apps } from "@/contract/apps";
import { Client } from "@/contract/client";
import { jobs } from "@/contract/jobs";
import { type Source, sources } from "@/contract/sources";
import { withDocument } from "@/core/sources/sources";
import { told } from "./calling";
import type { Paper } from "./paper";

/** Milliseconds between two looks at how far documents are read. */
const pause = 250;

/** Adds files and addresses as documents of an app, has its draft answer from them, and waits until they are read. @returns the exit code */
export async function addSources(
  slug: string,
  documents: readonly string[],
  { at, thisMachine, below }: { at: string; thisMachine?: boolean; below?: number },
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
  let all: Source[] = [];
  const code = await told(at, paper, async () => {
    for (const document of documents) {
      const bytes = files.get(document);
      if (bytes) {
        added.push(await client.sendBytes(sources.addFile, { slug, name: basename(document) }, new Uint8Array(bytes)));
        continue;
      }
      const body = { url: document, allowsThisMachine: thisMachine, below };
      const { job, ...page } = await client.send(sources.addAddress, { slug, body });
      added.push(page, ...(job ? await pagesOf(client, slug, job, paper) : []));
    }
    await answerFrom(client, slug, added);
    all = await whenRead(client, slug, added, paper);
  });
  for (const source of all) if (!source.problem) paper.say(`${lineOf(source)}\n`);
  const unread = all.filter(({ problem }) => problem !== null);
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
  const documents = added.reduce((all, { id, hash }) => withDocument(all, id, hash), draft.sources?.documents ?? []);
  await client.send(apps.setDraft, {
    slug,
    body: { content: { ...draft, sources: { ...draft.sources, documents } }, draftHash },
  });
}

/** Waits for the pages below an address, and says which could not be taken. @returns the documents that came of it */
async function pagesOf(client: Client, slug: string, id: string, paper: Paper): Promise<Source[]> {
  for (;;) {
    const { work, state, done, of, problem } = await client.send(jobs.read, { id });
    if (work.kind !== "pages") return [];
    if (state === "running" || state === "waiting") {
      paper.progress(`has pages below ${work.start}: ${done} of ${of}`);
      await rest(pause);
      continue;
    }
    for (const { url, why } of work.left) paper.warn(`${url} was not taken: ${why}`);
    if (problem) paper.warn(problem.detail);
    const ids = new Set(work.sources.slice(1));
    return (await client.send(sources.list, { slug })).sources.filter((each) => ids.has(each.id));
  }
}

/** Waits until documents are read, or can't be, and tells how far that is. @returns them as they are then */
export async function whenRead(
  client: Client,
  slug: string,
  added: readonly { id: string }[],
  paper: Paper,
): Promise<Source[]> {
  const ids = new Set(added.map(({ id }) => id));
  for (;;) {
    const all = (await client.send(sources.list, { slug })).sources.filter(({ id }) => ids.has(id));
    const open = all.filter(({ isRead, passages, problem }) => !problem && !(isRead && passages !== null));
    const [first] = open;
    if (!first) return all;
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
