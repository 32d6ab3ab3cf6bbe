import { readFileSync } from "node:fs";
import { piecesOf } from "../../conversation/pieces";
import type { ReadEvent } from "../../reply/events";
import type { WireCall, WireRequest } from "../encode";
import type { WrittenProfile } from "../profile-schema";
import { shippedProfiles } from "../profiles/shipped";

/** One shape of API: its profile, a command that works, an answer as hand-written bytes, and what is in it. */
export interface Sample {
  name: string;
  profile: WrittenProfile;
  /** A command that calls it, as a developer would paste it. */
  curl: string;
  contentType: string;
  answer: Uint8Array;
  /** What a decoder reads from the answer. */
  events: ReadEvent[];
  /** The request that the canonical call makes; the body parsed, where it is JSON. */
  request: Omit<WireRequest, "body"> & { body?: unknown };
  /** An answer that reports an error, and its kind. */
  failure?: { contentType: string; body: string; kind: string };
}

/** The key of the canonical call. */
export const sampleKey = "k-0815-sample";

/** A call with all that the samples' requests show: a prompt, three messages, two settings. */
export function canonicalCall(model: string, stream: boolean): WireCall {
  return {
    model,
    key: sampleKey,
    stream,
    messages: [
      { role: "system", pieces: piecesOf("You are the desk of Saltmarsh Ferry.") },
      { role: "visitor", pieces: piecesOf("Does the 8:10 run?") },
      { role: "app", pieces: piecesOf("Yes, from Mill Quay.") },
      { role: "visitor", pieces: piecesOf("On Sunday too?") },
    ],
    settings: { temperature: 0.7, maxOutput: 800 },
  };
}

/** What a developer would say to the questions that fitting asks about a sample. */
export function answersToFitting(name: string): Record<string, string> {
  return {
    model: name,
    "finish ebb": "complete",
    "finish burnt down": "complete",
    "finish still": "complete",
    "finish errand": "tools",
    "finish 2": "length",
  };
}

export const text = (...texts: string[]): ReadEvent[] => texts.map((each) => ofTake(0, each));
export const ofTake = (take: number, text: string): ReadEvent => ({ event: "text", take, data: { text } });
export const thought = (...texts: string[]): ReadEvent[] =>
  texts.map((each) => ({ event: "thought", take: 0, data: { text: each } }));
export const tool = (data: Extract<ReadEvent, { event: "tool" }>["data"]): ReadEvent => ({
  event: "tool",
  take: 0,
  data,
});
export const counts = (data: Extract<ReadEvent, { event: "counts" }>["data"]): ReadEvent => ({
  event: "counts",
  take: null,
  data,
});
export const version = (version: string): ReadEvent => ({ event: "version", take: null, data: { version } });
export const end = (reason: Extract<ReadEvent, { event: "end" }>["data"]["reason"], take = 0): ReadEvent => ({
  event: "end",
  take,
  data: { reason },
});

export const statuses = {
  "400": "misconfigured",
  "401": "unauthorised",
  "403": "not-allowed",
  "429": "rate-limited",
  "500": "overloaded",
} as const;

export const file = (name: string) => new Uint8Array(readFileSync(new URL(name, import.meta.url)));
export const shipped = (name: string) => shippedProfiles[name] as WrittenProfile;
export const json = { "content-type": "application/json" };
