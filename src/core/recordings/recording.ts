import { z } from "zod";
import { problemSchema } from "../problem/problem";
import { ordered } from "../revision/content";
import { type Json, parseShallow } from "../wire/json";

/** Where in a run of checks a call was made: the same place has the same answer when it is played. */
export const slotSchema = z.strictObject({
  check: z.string().max(200),
  column: z.string().max(100),
  trial: z.int().min(0),
});
/** What was recorded at the bench, and is of no check. */
export const atBench: Slot = { check: "", column: "", trial: 0 };
export type Slot = z.infer<typeof slotSchema>;

/** A call as recordings know it: nothing in it is secret, and what the clock said in it stands by its names. */
const callSchema = z.strictObject({
  /** The lasting name of the provider. */
  provider: z.string().max(200),
  model: z.string().max(500),
  method: z.string().max(20),
  /** Without the host: what is recorded here is played elsewhere too. */
  path: z.string().max(10_000),
  /** JSON where it is some; null where there is none. */
  body: z.json(),
});
export type RecordedCall = z.infer<typeof callSchema>;

/** Milliseconds that an answer may take, as it is recorded. */
const longestAnswer = 60 * 60 * 1000;

/** Bytes that came together, and so many milliseconds after the call went out: as text, where they are some. */
const partSchema = z.tuple([
  z.number().min(0).max(longestAnswer),
  z.union([z.string(), z.strictObject({ base64: z.base64() })]),
]);

const answerSchema = z.strictObject({
  /** Null where none came. */
  status: z.int().min(100).max(599).nullable(),
  headers: z.record(z.string(), z.string()),
  parts: z.array(partSchema),
  /** How it ended: by itself, broken off, or by a failure that was ours to see. */
  end: z.union([z.enum(["whole", "broken"]), problemSchema]),
});
export type RecordedAnswer = z.infer<typeof answerSchema>;

/** A call of a provider with its answer, to be played without network, key or price. */
export const recordingSchema = z.strictObject({
  /** When it was made (ISO 8601). */
  at: z.iso.datetime(),
  of: slotSchema,
  /** How often the same call was made in that place by then, from 1. */
  n: z.int().min(1),
  call: callSchema,
  answer: answerSchema,
});
export type Recording = z.infer<typeof recordingSchema>;

/** What a call is looked up by: the same text for calls that ask the same. */
export function keyOf(call: RecordedCall): string {
  return ordered(call);
}

/**
 * A request as recordings know it.
 * @param leave gives a text with the names of what the clock said in it
 */
export function recordedCall(
  { provider, model }: { provider: string; model: string },
  { method, url, body }: { method: string; url: string; body?: string },
  leave: (text: string) => string,
): RecordedCall {
  const { pathname, search } = new URL(url);
  const left = body === undefined || body === "" ? null : leave(body);
  const read = left === null ? null : (parseShallow(left) ?? left);
  return { provider, model, method, path: pathname + search, body: read as Json };
}

/** Bytes as a recording has them. */
export function partOf(ms: number, bytes: Uint8Array): RecordedAnswer["parts"][number] {
  try {
    return [ms, new TextDecoder("utf-8", { fatal: true, ignoreBOM: true }).decode(bytes)];
  } catch {
    return [ms, { base64: btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join("")) }];
  }
}

/** The bytes of a part of a recording. */
export function bytesOf([, said]: RecordedAnswer["parts"][number]): Uint8Array {
  if (typeof said === "string") return new TextEncoder().encode(said);
  return Uint8Array.from(atob(said.base64), (letter) => letter.charCodeAt(0));
}
