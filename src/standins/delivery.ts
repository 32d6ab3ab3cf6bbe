import type { ServerResponse } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import type { Call } from "./call";
import { choicesFrom } from "./engine/random";
import type { Fault } from "./faults/plan";
import { type Pace, paced } from "./pace";

/** A reply as its shape writes it out, event by event. */
export interface Streamed {
  contentType: string;
  /** Events before the first token. */
  opening: string[];
  /** The tokens, thought first. */
  thought: readonly string[];
  text: readonly string[];
  /** The event of a token. */
  event(token: string, isThought: boolean): string;
  /** Events after the last token; those that mark the end come last. */
  closing: string[];
  /** What has to come in any case, such as the bracket that closes a list. */
  tail?: string;
  /** How many of `closing` mark the end. */
  ends: number;
  /** The beginning of an event that is not valid. */
  broken: string;
}

/** Thrown where a fault plan ends an answer. */
export class Stopped extends Error {}

/** Streams a reply at its pace, with what the fault plan does to it. */
export async function deliver(response: ServerResponse, call: Call, pace: Pace, streamed: Streamed): Promise<void> {
  const { fault } = call;
  const outlet = new Outlet(response, fault);
  response.writeHead(200, { "content-type": streamed.contentType, "cache-control": "no-store" });
  response.flushHeaders();
  for (const event of streamed.opening) outlet.write(event);
  const isEmpty = fault?.fault === "empty";
  const thoughts = isEmpty ? 0 : streamed.thought.length;
  const tokens = isEmpty ? [] : [...streamed.thought, ...streamed.text];
  const slowed = fault?.fault === "slow-drip" ? { ...pace, tokensPerSecond: 1000 / Math.max(fault.ms ?? 0, 1) } : pace;
  await paced(tokens, slowed, choicesFrom(tokens.length).next, call.signal, (token, at) => {
    outlet.stopAt(at, streamed.broken);
    const event = streamed.event(token, at < thoughts);
    outlet.write(event);
    if (fault?.fault === "twice" && at === fault.after) outlet.write(event);
    if (at >= thoughts) call.said(token);
  });
  if (fault?.fault === "never-ends") await forever(call, () => outlet.write(streamed.event("… ", false)));
  const closing = fault?.fault === "no-end" ? streamed.closing.slice(0, -streamed.ends) : streamed.closing;
  for (const event of closing) outlet.write(event);
  if (fault?.fault !== "no-end" && streamed.tail) outlet.write(streamed.tail);
  outlet.end();
}

/** Answers at once, after as long as saying it would have taken, with what the fault plan does to it. */
export async function deliverWhole(
  response: ServerResponse,
  call: Call,
  pace: Pace,
  tokens: readonly string[],
  text: string,
  body: object,
): Promise<void> {
  const { fault } = call;
  await paced(tokens, pace, choicesFrom(tokens.length).next, call.signal, () => {});
  call.said(fault?.fault === "empty" ? "" : text);
  const outlet = new Outlet(response, fault);
  const written = JSON.stringify(body);
  response.writeHead(200, { "content-type": "application/json" });
  if (fault?.fault === "never-ends") {
    outlet.write(written.slice(0, -1));
    await forever(call, () => outlet.write(" "));
  }
  if (fault?.after !== undefined && fault.fault !== "twice") {
    outlet.write(written.slice(0, Math.ceil(written.length / 2)));
    // what was written has to be on its way before the connection goes
    await wait(20, undefined, { signal: call.signal });
    outlet.stopAt(fault.after, "");
  }
  if (fault?.fault === "slow-drip")
    for (const part of written.match(/.{1,40}/gs) ?? []) {
      outlet.write(part);
      await wait(fault.ms, undefined, { signal: call.signal });
    }
  else outlet.write(written);
  outlet.end();
}

async function forever(call: Call, write: () => void): Promise<never> {
  for (;;) {
    await wait(20, undefined, { signal: call.signal });
    write();
  }
}

/** Writes to an answer as a fault plan has it. */
class Outlet {
  private held: string[] = [];

  constructor(
    private readonly response: ServerResponse,
    private readonly fault: Fault | undefined,
  ) {}

  write(text: string): void {
    const { response, fault } = this;
    if (fault?.fault === "held-back") this.held.push(text);
    else if (fault?.fault === "cut-at-every-byte")
      for (const byte of Buffer.from(text)) response.write(Buffer.of(byte));
    else if (fault?.fault === "cut-in-character")
      for (const part of cutInCharacters(Buffer.from(text))) response.write(part);
    else response.write(text);
  }

  /** Stops the answer where the fault plan does at this event. */
  stopAt(at: number, broken: string): void {
    const { response, fault } = this;
    if (!fault || at !== fault.after || fault.fault === "twice") return;
    if (fault.fault === "broken-json") response.write(broken);
    if (fault.fault === "dropped") response.destroy();
    throw new Stopped(fault.fault);
  }

  end(): void {
    this.response.end(this.held.join(""));
  }
}

/** Bytes cut inside of each character that has more than one, or else in the middle. */
function cutInCharacters(bytes: Buffer): Buffer[] {
  const parts: Buffer[] = [];
  let from = 0;
  for (let at = 1; at < bytes.length; at++)
    if (((bytes[at] ?? 0) & 0xc0) === 0x80) {
      parts.push(bytes.subarray(from, at));
      from = at;
    }
  if (from === 0) from = Math.floor(bytes.length / 2);
  return parts.length > 0 ? [...parts, bytes.subarray(from)] : [bytes.subarray(0, from), bytes.subarray(from)];
}
