import { readFileSync, writeFileSync } from "node:fs";
import { apps } from "@/contract/apps";
import { Client } from "@/contract/client";
import { told } from "./calling";
import type { Paper } from "./paper";

/** Writes an app as one file, or to the output. @returns the exit code */
export async function exportApp(slug: string, { at, to }: { at: string; to?: string }, paper: Paper): Promise<number> {
  return told(at, paper, async () => {
    const text = await new Client(at).text(apps.bundle, { slug });
    if (to === undefined) paper.say(text);
    else {
      writeFileSync(to, text);
      paper.note(`${slug} is in ${to}.`);
    }
  });
}

/** Makes an app of a file. @returns the exit code */
export async function importApp(
  file: string,
  { at, name }: { at: string; name?: string },
  paper: Paper,
): Promise<number> {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch (error) {
    paper.warn(`${file} can't be read (${(error as NodeJS.ErrnoException).code}).`);
    return 2;
  }
  return told(at, paper, async () => {
    const app = await new Client(at).send(apps.fromBundle, { body: { text, name } });
    paper.say(`${app.slug}\n`);
    paper.note(`${app.name} is at ${at}/apps/${app.slug}/build.`);
  });
}
