import { readFileSync } from "node:fs";
import { cutInto } from "@/core/sources/cutting";
import type { Block } from "@/core/sources/document";
import { decodedText } from "@/core/sources/kinds";
import { longestDocument } from "@/core/sources/origin";
import { blocksOfMarkdown } from "@/core/sources/reading/markdown";
import { blocksOfTable, UnreadableTable } from "@/core/sources/reading/table";
import { blocksOfText } from "@/core/sources/reading/text";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";
import { type Task, type Told, taken, Unreadable } from "./telling";

/** The process that reads documents: it gets a task, tells what comes of it, and waits for the next. */

/** Passages that are told of at once. */
const passagesAtOnce = 25;

/** Goes on once what was told was taken in. */
let goOn = () => {};

process.on("message", (message: Task | typeof taken) => {
  if (message === taken) goOn();
  else void work(message);
});
// whoever it reads for is gone
process.on("disconnect", () => process.exit());

async function work(task: Task): Promise<void> {
  try {
    await done(task);
    say({ said: "end", bytes: process.memoryUsage.rss() });
  } catch (error) {
    const isExpected = error instanceof Unreadable || error instanceof UnreadableTable;
    // what a parser says of a broken file is of no use to anybody
    const why = isExpected ? error.message : "is broken, and can't be read";
    say({ said: "failed", why, bytes: process.memoryUsage.rss() });
  }
}

async function done(task: Task): Promise<void> {
  if (task.task === "cut") return cut(task);
  if (task.task === "links") {
    const { linksOfHtml } = await import("./html");
    await tell({ said: "links", ...linksOfHtml(textAt(task.path)) });
    return;
  }
  let characters = 0;
  const tellPart = async (place: number, blocks: Block[], unread: "no-text" | "broken" | null) => {
    for (const { text } of blocks) characters += text.length;
    if (characters > longestDocument)
      throw new Unreadable(`holds more than ${longestDocument / 1_000_000} million characters`);
    await tell({ said: "part", place, blocks, unread });
  };
  if (task.kind === "pdf") {
    const { readPdf } = await import("./pdf");
    await readPdf(new Uint8Array(readFileSync(task.path)), task.from, {
      parts: (parts) => tell({ said: "parts", parts }),
      part: tellPart,
    });
    return;
  }
  await tell({ said: "parts", parts: 1 });
  const blocks = await blocksIn(task);
  if (blocks.length === 0) throw new Unreadable("holds no text");
  await tellPart(1, blocks, null);
}

async function blocksIn({ path, kind }: Extract<Task, { task: "read" }>): Promise<Block[]> {
  // what reads one kind of document is not there for the others
  if (kind === "docx") return (await import("./docx")).blocksOfDocx(path);
  const text = textAt(path);
  switch (kind) {
    case "html":
      return (await import("./html")).blocksOfHtml(text);
    case "csv":
      return blocksOfTable(text);
    case "markdown":
      return blocksOfMarkdown(text);
    default:
      return blocksOfText(text);
  }
}

function textAt(path: string): string {
  const text = decodedText(readFileSync(path));
  if (text === undefined) throw new Unreadable("is no text");
  return text;
}

async function cut({ blocks, cut }: Extract<Task, { task: "cut" }>): Promise<void> {
  const tokensOf = (text: string) => rawTokens(countsOf(text));
  const all = cutInto(blocks, cut, tokensOf);
  for (let at = 0; at < all.length; at += passagesAtOnce) {
    const passages = all.slice(at, at + passagesAtOnce);
    await tell({ said: "passages", passages, tokens: passages.reduce((sum, { text }) => sum + tokensOf(text), 0) });
  }
}

/** Tells something; resolves once it was taken in, so that no more is under way than that. */
function tell(told: Told): Promise<void> {
  return new Promise((resolve) => {
    goOn = resolve;
    say(told);
  });
}

function say(told: Told): void {
  process.send?.(told);
}
