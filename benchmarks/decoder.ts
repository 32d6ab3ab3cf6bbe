import { createDecoder } from "@/core/wire/decode";
import { type CompiledProfile, compileProfile } from "@/core/wire/profile";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { quantile } from "./rig";
import type { Row } from "./row";
import { documentsIn, eventsOf, type StreamShape, shapes } from "./shapes";

const megabyte = 1024 * 1024;
const rounds = 9;
/** Events of one reply; text that is repeated so far makes them longer and longer. */
const eventsInReply = 300;
const utf8 = new TextEncoder();

/** A reply in the chunks in which it is read, and how often it is. */
interface Load {
  shape: StreamShape;
  profile: CompiledProfile;
  chunks: Uint8Array[];
  times: number;
}

/** The decoder's speed, for every shape, against UTF-8 decoding, line splitting and `JSON.parse` alone; and one event of 50 MB against one of 5 MB. */
export function decoderRows(): Row[] {
  const rows: Row[] = [];
  for (const [name, shape] of Object.entries(shapes)) {
    const profile = compileProfile(shippedProfiles[name]);
    const events = [shape.opening, ...eventsOf(shape, eventsInReply), shape.ending].map((event) => utf8.encode(event));
    const reply = Buffer.concat(events);
    const times = Math.ceil((6 * megabyte) / reply.length);
    const loads = { "cut at 64 KB": cut(reply, 64 * 1024), "cut at each event": events };
    for (const [how, chunks] of Object.entries(loads)) {
      const ratio = speed({ shape, profile, chunks, times });
      rows.push({ what: `decoder ÷ bare parsing, in bytes/s, ${name}, ${how}`, ratio, bar: 0.7, isMost: false });
    }
  }
  const whole = wholeSpeed();
  rows.push({
    what: "decoder ÷ bare parsing, in bytes/s, one-text, answered at once",
    ratio: whole,
    bar: 0.7,
    isMost: false,
  });
  for (const name of ["chat-completions", "growing-array", "json-lines"])
    rows.push({
      what: `decoder, ${name}: one event of 50 MB ÷ one of 5 MB`,
      ratio: growth(name),
      bar: 15,
      isMost: true,
    });
  return rows;
}

function speed(load: Load): number {
  const ratios: number[] = [];
  for (let round = 0; round < rounds; round++) ratios.push(time(() => bare(load)) / time(() => decode(load)));
  return quantile(ratios.slice(2), 0.5);
}

function wholeSpeed(): number {
  const profile = compileProfile(shippedProfiles["one-text"]);
  const answer = utf8.encode(
    JSON.stringify({
      peal: { text: "The boat leaves at 9:40. ".repeat(400), ended: "still" },
      tolls: { heard: 4, rung: 9 },
    }),
  );
  const times = Math.ceil((12 * megabyte) / answer.length);
  const read = () => {
    for (let at = 0; at < times; at++) readWith(profile, "application/json", [answer]);
  };
  const parse = () => {
    for (let at = 0; at < times; at++) JSON.parse(new TextDecoder().decode(answer));
  };
  const ratios: number[] = [];
  for (let round = 0; round < rounds; round++) ratios.push(time(parse) / time(read));
  return quantile(ratios.slice(2), 0.5);
}

function growth(name: string): number {
  const shape = shapes[name] as StreamShape;
  const profile = compileProfile(shippedProfiles[name]);
  const load = (size: number) =>
    cut(utf8.encode(shape.opening + shape.event("x".repeat(size), 0, "") + shape.ending), 64 * 1024);
  const [large, small] = [load(50 * megabyte), load(5 * megabyte)];
  const ratios: number[] = [];
  for (let round = 0; round < 5; round++)
    ratios.push(
      time(() => readWith(profile, shape.contentType, large)) / time(() => readWith(profile, shape.contentType, small)),
    );
  return quantile(ratios, 0.5);
}

function cut(bytes: Uint8Array, size: number): Uint8Array[] {
  return Array.from({ length: Math.ceil(bytes.length / size) }, (_, at) => bytes.subarray(at * size, (at + 1) * size));
}

function decode({ shape, profile, chunks, times }: Load): void {
  for (let at = 0; at < times; at++) readWith(profile, shape.contentType, chunks);
}

function readWith(profile: CompiledProfile, contentType: string, chunks: Uint8Array[]): void {
  const decoder = createDecoder(profile, { status: 200, contentType });
  let last: { event: string } | undefined;
  for (const chunk of chunks) last = decoder.feed(chunk).at(-1) ?? last;
  last = decoder.close().at(-1) ?? last;
  if (last?.event !== "end") throw new Error(`The benchmark's stream of ${contentType} was not read to its end.`);
}

function bare({ shape, chunks, times }: Load): number {
  let length = 0;
  for (let at = 0; at < times; at++) {
    const decoder = new TextDecoder();
    let rest = "";
    for (const chunk of chunks) {
      const found = documentsIn(shape, rest + decoder.decode(chunk, { stream: true }));
      rest = found.rest;
      for (const document of found.documents) length += Object.keys(JSON.parse(document)).length;
    }
  }
  return length;
}

function time(work: () => unknown): number {
  const started = performance.now();
  work();
  return performance.now() - started;
}
