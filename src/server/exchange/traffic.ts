import type { Problem } from "@/core/problem/problem";
import { bytesOf, partOf, type RecordedAnswer, type RecordedCall } from "@/core/recordings/recording";
import type { AnswerHead } from "@/core/wire/decode";
import { Scrubber } from "../security/scrub";
import { headOf } from "./answer-head";
import type { Exchange, Listener } from "./exchange";

/** What stands between a making and its providers: answers that were recorded, and what records them. */
export interface Traffic {
  /** Whether no provider is called in any case. */
  isAlone: boolean;
  /** How fast what was recorded is played. */
  pace: "at-once" | "as-recorded";
  /** The answer to play; or that the provider is called, or why neither can be. */
  find(
    call: RecordedCall,
  ): { kind: "played"; answer: RecordedAnswer } | { kind: "called" } | { kind: "none"; problem: Problem };
  /** Keeps an answer, where it is recorded. */
  keep?(call: RecordedCall, answer: RecordedAnswer): void;
}

/** Headers that say how an answer came, and nothing of what it is; or that make a session of it. */
const leftOut = new Set([
  "connection",
  "content-encoding",
  "content-length",
  "date",
  "keep-alive",
  "set-cookie",
  "transfer-encoding",
]);

/** Bytes of an answer that are recorded; one that has more is not. */
const largest = 8 * 1024 * 1024;

/** A listener that records what it is told: bytes without secrets, and the head. */
export class Recorder implements Listener {
  private readonly began = performance.now();
  private readonly parts: RecordedAnswer["parts"] = [];
  private head_: { status: number; headers: Record<string, string> } | undefined;
  private size = 0;
  private isOver = false;

  /** @param keep is given the answer, once it has ended */
  constructor(
    private readonly to: Listener,
    private readonly secrets: readonly string[],
    private readonly keep: (answer: RecordedAnswer) => void,
  ) {}

  head(head: AnswerHead): void {
    const headers = Object.entries(head.headers ?? {}).flatMap(([name, value]) =>
      leftOut.has(name.toLowerCase()) ? [] : [[name, Scrubber.text(value, this.secrets)]],
    );
    this.head_ = { status: head.status, headers: Object.fromEntries(headers) };
    this.to.head(head);
  }

  bytes(bytes: Buffer): void {
    this.size += bytes.length;
    if (this.size <= largest) this.parts.push(partOf(Math.round(performance.now() - this.began), bytes));
    this.to.bytes(bytes);
  }

  close(isWhole: boolean): void {
    this.end(isWhole ? "whole" : "broken");
    this.to.close(isWhole);
  }

  fail(failure: Problem): void {
    this.end({ ...failure, detail: Scrubber.text(failure.detail, this.secrets) });
    this.to.fail(failure);
  }

  /** No more of it is wanted: all that matters was said. */
  leave(): void {
    this.end("whole");
  }

  /** It was stopped: what came says nothing of how it would have ended. */
  drop(): void {
    this.isOver = true;
  }

  private end(end: RecordedAnswer["end"]): void {
    if (this.isOver) return;
    this.isOver = true;
    if (this.size > largest) return;
    const { status = null, headers = {} } = this.head_ ?? {};
    this.keep({ status, headers, parts: this.parts, end });
  }
}

/** Plays an answer that was recorded to a listener, as if it came. */
export function play(answer: RecordedAnswer, pace: Traffic["pace"], listener: Listener): Exchange {
  let isOver = false;
  let wake: NodeJS.Timeout | undefined;
  const began = performance.now();
  const due = (ms: number) =>
    new Promise<void>((resolve) => {
      const wait = pace === "at-once" ? 0 : ms - (performance.now() - began);
      if (wait > 0) wake = setTimeout(resolve, wait);
      else setImmediate(resolve);
    });
  const run = async () => {
    await due(answer.parts[0]?.[0] ?? 0);
    if (!isOver && answer.status !== null) listener.head(headOf(answer.status, answer.headers));
    for (const part of answer.parts) {
      await due(part[0]);
      if (isOver) return;
      listener.bytes(Buffer.from(bytesOf(part)));
    }
    if (isOver) return;
    isOver = true;
    if (answer.end === "whole" || answer.end === "broken") listener.close(answer.end === "whole");
    else listener.fail(answer.end);
  };
  void run();
  const end = () => {
    isOver = true;
    clearTimeout(wake);
  };
  return { abort: async () => end(), leave: end };
}
