import type { ReadEvent } from "../reply/events";
import { type AnswerHead, createDecoder } from "./decode";
import type { CompiledProfile } from "./profile";

/** One arrival of an answer: its bytes as text, and what was read from it. */
export interface ReplayedArrival {
  /** Milliseconds after the start. */
  at: number;
  text: string;
  read: ReadEvent[];
}

/** Reads a kept answer again, arrival by arrival. */
export function replay(
  profile: CompiledProfile,
  head: AnswerHead,
  bytes: Uint8Array,
  arrivals: readonly (readonly [at: number, length: number])[],
): ReplayedArrival[] {
  const decoder = createDecoder(profile, head);
  const utf8 = new TextDecoder();
  let from = 0;
  const rows = arrivals.map(([at, length]): ReplayedArrival => {
    const part = bytes.subarray(from, from + length);
    from += length;
    return { at, text: utf8.decode(part, { stream: true }), read: decoder.feed(part) };
  });
  const rest = decoder.close();
  const last = rows.at(-1);
  if (last) last.read.push(...rest);
  return rows;
}
