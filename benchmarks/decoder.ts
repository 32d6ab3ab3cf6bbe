import { createDecoder } from "@/core/wire/decode";
import { compileProfile } from "@/core/wire/profile";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import { quantile } from "./rig";
import type { Row } from "./run";

const megabyte = 1024 * 1024;
const rounds = 7;
const profile = compileProfile(chatCompletions);
const utf8 = new TextEncoder();

/** The decoder's speed against UTF-8 decoding, line splitting and `JSON.parse` alone, and one event of 50 MB against one of 5 MB. */
export function decoderRows(): Row[] {
  const event = utf8.encode(
    `data: ${JSON.stringify({ id: "b1", choices: [{ index: 0, delta: { content: "boat " }, finish_reason: null }] })}\n\n`,
  );
  const perEvent = Array.from({ length: Math.floor((8 * megabyte) / event.length) }, () => event);
  const stream = Buffer.concat(perEvent);
  const perBlock = cut(stream, 64 * 1024);
  return [
    { what: "decoder ÷ bare parsing, in bytes/s, cut at 64 KB", ratio: speed(perBlock), bar: 0.6, isMost: false },
    { what: "decoder ÷ bare parsing, in bytes/s, cut at each event", ratio: speed(perEvent), bar: 0.6, isMost: false },
    { what: "decoder: one event of 50 MB ÷ one of 5 MB", ratio: growth(), bar: 15, isMost: true },
  ];
}

function speed(chunks: Uint8Array[]): number {
  const ratios: number[] = [];
  for (let round = 0; round < rounds; round++) ratios.push(time(() => bare(chunks)) / time(() => decode(chunks)));
  return quantile(ratios.slice(2), 0.5);
}

function growth(): number {
  const large = cut(eventOf(50 * megabyte), 64 * 1024);
  const small = cut(eventOf(5 * megabyte), 64 * 1024);
  const ratios: number[] = [];
  for (let round = 0; round < 5; round++) ratios.push(time(() => decode(large)) / time(() => decode(small)));
  return quantile(ratios, 0.5);
}

function eventOf(size: number): Uint8Array {
  return utf8.encode(
    `data: ${JSON.stringify({ choices: [{ delta: { content: "x".repeat(size) }, finish_reason: "stop" }] })}\n\n`,
  );
}

function cut(bytes: Uint8Array, size: number): Uint8Array[] {
  return Array.from({ length: Math.ceil(bytes.length / size) }, (_, at) => bytes.subarray(at * size, (at + 1) * size));
}

function decode(chunks: Uint8Array[]): number {
  const decoder = createDecoder(profile, { status: 200, contentType: "text/event-stream" });
  let events = 0;
  for (const chunk of chunks) events += decoder.feed(chunk).length;
  return events + decoder.close().length;
}

function bare(chunks: Uint8Array[]): number {
  const decoder = new TextDecoder();
  let rest = "";
  let length = 0;
  for (const chunk of chunks) {
    const lines = (rest + decoder.decode(chunk, { stream: true })).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) if (line !== "") length += JSON.parse(line.slice(6)).choices.length;
  }
  return length;
}

function time(work: () => unknown): number {
  const started = performance.now();
  work();
  return performance.now() - started;
}
