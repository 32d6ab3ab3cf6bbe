import type { ServerResponse } from "node:http";
import { setTimeout as wait } from "node:timers/promises";
import type { Call } from "./call";
import { choicesFrom } from "./engine/random";
import type { Active } from "./faults/fault";
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
  closing: () => string[];
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
  const thoughts = fault?.isSilent ? 0 : streamed.thought.length;
  const tokens = fault?.isSilent ? [] : [...streamed.thought, ...streamed.text];
  const slowed = fault?.pace?.(pace, fault.planned) ?? pace;
  await paced(
    tokens,
    slowed,
    choicesFrom(tokens.length).next,
    call.signal,
    (token, at) => {
      outlet.stopAt(at, streamed.broken);
      const event = streamed.event(token, at < thoughts);
      outlet.write(event);
      if (fault?.isTwice && at === fault.planned.after) outlet.write(event);
      if (at >= thoughts) call.said(token);
    },
    call.arrivedAt,
    call.hurried,
  );
  if (fault?.isEndless) await forever(call, () => outlet.write(streamed.event("… ", false)));
  const closing = fault?.hasNoEnd ? streamed.closing().slice(0, -streamed.ends) : streamed.closing();
  for (const event of closing) outlet.write(event);
  if (!fault?.hasNoEnd && streamed.tail) outlet.write(streamed.tail);
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
  await paced(tokens, pace, choicesFrom(tokens.length).next, call.signal, () => {}, call.arrivedAt, call.hurried);
  call.said(fault?.isSilent ? "" : text);
  const outlet = new Outlet(response, fault);
  const written = JSON.stringify(body);
  response.writeHead(200, { "content-type": "application/json" });
  if (fault?.isEndless) {
    outlet.write(written.slice(0, -1));
    await forever(call, () => outlet.write(" "));
  }
  if (fault?.stop) {
    outlet.write(written.slice(0, Math.ceil(written.length / 2)));
    // what was written has to be on its way before the connection goes
    await wait(20, undefined, { signal: call.signal });
    outlet.stopAt(fault.planned.after ?? 0, "");
  }
  if (fault?.pace)
    for (const part of written.match(/.{1,40}/gs) ?? []) {
      outlet.write(part);
      await wait(fault.planned.ms, undefined, { signal: call.signal });
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
    private readonly fault: Active | undefined,
  ) {}

  write(text: string): void {
    const { response, fault } = this;
    if (fault?.isHeld) this.held.push(text);
    else if (fault?.cut) for (const part of fault.cut(Buffer.from(text))) response.write(part);
    else response.write(text);
  }

  /** Stops the answer where the fault plan does at this event. */
  stopAt(at: number, broken: string): void {
    const { response, fault } = this;
    if (!fault?.stop || at !== fault.planned.after) return;
    fault.stop(response, broken);
    throw new Stopped(fault.says);
  }

  end(): void {
    this.response.end(this.held.join(""));
  }
}
