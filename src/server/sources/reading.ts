import type { ChildProcess } from "node:child_process";
import type { PageLinks } from "@/core/sources/below";
import type { Block } from "@/core/sources/document";
import type { DocumentKind } from "@/core/sources/kinds";
import type { UnreadPart } from "@/core/sources/origin";
import { fileToRun } from "../ground/run-file";
import { type CutOf, type CutPassages, type Task, type Told, taken } from "./reading/telling";

/** Bytes that the process which reads a document may have, and milliseconds that it may be silent or take in all. */
const mostBytes = 480 * 1024 * 1024;
const longestSilence = 60_000;
const longest = 15 * 60_000;
/** MiB of them that its values may have. */
const heap = 320;
/** Bytes above which a process is not used again, and milliseconds that one is kept for the next document. */
const lean = 240 * 1024 * 1024;
const keptFor = 10_000;

/** How a document was read; `why` goes on from its name. */
export type Read = { ok: true } | { ok: false; why: string };

/** Is told what is read, as it is read: reading goes on once it has taken that in. */
export interface ReadingListener {
  parts(parts: number): void;
  part(place: number, blocks: Block[], unread: UnreadPart["why"] | null): Promise<void>;
}

/**
 * Has documents read and cut in a process of its own, which has bounds of memory and time, and nothing of our
 * environment. One that is still lean after a document reads the next one, too.
 */
export class DocumentReader {
  private idle: { child: ChildProcess; timer: NodeJS.Timeout } | undefined;

  /** Reads a document. @param of `from` is the first part that is wanted, from 1. @throws what `signal` is aborted with */
  read(
    of: { path: string; kind: DocumentKind; from: number },
    listener: ReadingListener,
    signal: AbortSignal,
  ): Promise<Read> {
    return this.done({ task: "read", ...of }, signal, async (told) => {
      if (told.said === "parts") listener.parts(told.parts);
      if (told.said === "part") await listener.part(told.place, told.blocks, told.unread);
    });
  }

  /** Cuts a document into passages: thousands of them would hold up all that is under way here. @throws what `signal` is aborted with */
  cut(
    blocks: Block[],
    cut: CutOf,
    listen: (passages: CutPassages) => Promise<void>,
    signal: AbortSignal,
  ): Promise<Read> {
    return this.done({ task: "cut", blocks, cut }, signal, async (told) => {
      if (told.said === "passages") await listen(told);
    });
  }

  /** What a page leads to; nothing where that can't be read. @throws what `signal` is aborted with */
  async links(path: string, signal: AbortSignal): Promise<PageLinks> {
    let links: PageLinks = { hrefs: [], base: undefined };
    await this.done({ task: "links", path }, signal, async (told) => {
      if (told.said === "links") links = told;
    });
    return links;
  }

  /** Lets go of a process that is kept. */
  close(): void {
    this.atHand()?.kill("SIGKILL");
  }

  private done(task: Task, signal: AbortSignal, listen: (told: Told) => Promise<void>): Promise<Read> {
    return new Promise((resolve, reject) => {
      signal.throwIfAborted();
      const child = this.atHand() ?? begun();
      let cutOff: string | undefined;
      let failure: unknown;
      const kill = () => child.kill("SIGKILL");
      const end = (why: string) => {
        cutOff ??= why;
        kill();
      };
      const tooSilent = () => end(`could not be read: nothing came of it for ${longestSilence / 1000} s`);
      let silence = setTimeout(tooSilent, longestSilence);
      const all = setTimeout(() => end(`takes longer than ${longest / 60_000} minutes to read`), longest);
      const settle = () => {
        clearTimeout(silence);
        clearTimeout(all);
        signal.removeEventListener("abort", kill);
        child.removeAllListeners();
      };
      const finish = (read: Read, bytes: number) => {
        settle();
        if (bytes < lean) this.keep(child);
        else kill();
        resolve(read);
      };
      signal.addEventListener("abort", kill);
      child.on("message", (told: Told) => {
        clearTimeout(silence);
        silence = setTimeout(tooSilent, longestSilence);
        if (signal.aborted) return;
        if (told.said === "end") return finish({ ok: true }, told.bytes);
        if (told.said === "failed") return finish({ ok: false, why: told.why }, told.bytes);
        listen(told).then(
          () => child.connected && child.send(taken),
          (error) => {
            failure ??= error;
            kill();
          },
        );
      });
      child.on("error", (error) => {
        failure ??= error;
      });
      child.on("close", (_code, killedBy) => {
        settle();
        if (signal.aborted) reject(signal.reason);
        else if (failure !== undefined) reject(failure);
        else if (cutOff !== undefined) resolve({ ok: false, why: cutOff });
        // it was ended by its own watch, or by its engine
        else if (killedBy) resolve({ ok: false, why: `needs more than ${mostBytes / 1024 / 1024} MiB to be read` });
        else resolve({ ok: false, why: "is broken, and can't be read" });
      });
      child.send(task, (error) => {
        if (error) failure ??= error;
      });
    });
  }

  /** The process that is kept, which is then nobody's; undefined where there is none. */
  private atHand(): ChildProcess | undefined {
    const { child, timer } = this.idle ?? {};
    clearTimeout(timer);
    this.idle = undefined;
    if (!child?.connected) return undefined;
    child.ref();
    child.channel?.ref();
    return child;
  }

  private keep(child: ChildProcess): void {
    if (!child.connected || this.idle) {
      child.kill("SIGKILL");
      return;
    }
    // it keeps no process alive
    child.unref();
    child.channel?.unref();
    const timer = setTimeout(() => this.close(), keptFor);
    timer.unref();
    this.idle = { child, timer };
  }
}

function begun(): ChildProcess {
  // Next must not look for its file among what it bundles
  const processes = process.getBuiltinModule("node:child_process");
  const { PATH, TMPDIR } = process.env;
  return processes.fork(`${process.cwd()}/src/server/sources/reading/begin.mjs`, [fileToRun("reading")], {
    execArgv: [`--max-old-space-size=${heap}`],
    env: { PATH, TMPDIR, NODE_ENV: process.env.NODE_ENV, FINCH_READING_BYTES: String(mostBytes) },
    serialization: "advanced",
    stdio: ["ignore", "ignore", "ignore", "ipc"],
  });
}
