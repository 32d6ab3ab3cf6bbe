import { isLast } from "@/core/reply/events";
import type { Told } from "@/core/reply/told";
import { eventForCaller, pictureIds } from "../answers/for-caller";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasRevocations } from "../entrance/revocations";
import type { HasUploads } from "../entrance/upload-store";
import type { HasChanges } from "../live/changes";
import type { HasEvents, PublishedEvent, StoredEvent } from "../live/event-store";
import type { HasHub } from "../live/hub";
import { Feed, mostWaiting, type Source } from "./feed";

/** What of the process is used here. */
export type ReplyStreamNeeds = HasRevocations & HasHub & HasConversations & HasUploads;

/** Headers of every stream: nothing on the way may keep, change, compress or buffer it. */
const headers = { "cache-control": "no-store, no-transform", "x-accel-buffering": "no" };

/** How events are written. */
export interface Format {
  type: string;
  event(event: StoredEvent): string;
  /** What is written when there was nothing to say for a while. */
  pause: string;
  /** Whether its reader wants no more after what was written, though more may come. */
  isOver?(): boolean;
}

/** The media type of a format, without its parameters. */
export function mediaTypeOf({ type }: Format): string {
  return type.replace(/;.*/, "");
}

/** Server-sent events, one for each event of a reply. */
export const sse: Format = {
  type: "text/event-stream; charset=utf-8",
  event: ({ id, event, data }) => `id: ${id}\nevent: ${event}\ndata: ${data}\n\n`,
  pause: ": still here\n\n",
};

/** A line of JSON for each event of a reply. */
export const ndjson: Format = {
  type: "application/x-ndjson; charset=utf-8",
  event: ({ id, event, data }) => `{"id":${id},"event":"${event}","data":${data}}\n`,
  pause: "\n",
};

/**
 * The events of one reply after one of its ids, until its end, as a caller gets them.
 * @param told what the caller is told beside the words: ids of what it is not told are passed over
 * @param token under which they are read: they end when it is revoked
 */
export function replyStream(
  home: ReplyStreamNeeds,
  reply: string,
  after: number,
  format: Format,
  { headers: more = {}, told, token }: { headers?: Record<string, string>; told: Told; token?: string },
): Response {
  const { hub, revocations } = home;
  const fileOf = pictureIds(home, reply);
  const source: Source<StoredEvent> = {
    after: (place, count) => hub.eventsOf(reply, place, count),
    placeOf: ({ id }) => id,
    follow: (reader) => hub.follow(reply, reader),
    isEnd: (event) => (format.isOver?.() ?? false) || isLast(event),
    endsWith: token === undefined ? undefined : (end) => revocations.watch(token, end),
    write: (event) => {
      const asTold = eventForCaller(event, told, fileOf);
      return asTold ? format.event(asTold) : "";
    },
    opening: "",
    pause: format.pause,
    lastWord: format.pause,
  };
  return stream(new Feed(hub, source, after), format.type, more);
}

/**
 * Server-sent events of all replies after a position, for a tab of the bench; ids are positions. A tab that was away, or
 * read so slowly that what comes next is not kept any more, is told so by the event `behind`, and goes on from there;
 * `changed` tells of a conversation that changed otherwise than by a reply, `app` of an app or its draft, `jobs` that
 * jobs did.
 */
export function benchStream({ hub, events, changes }: HasChanges & HasEvents & HasHub, after: number | null): Response {
  const last = events.lastPosition();
  const source: Source<PublishedEvent> = {
    after: (place, count) => events.afterPosition(place, count),
    placeOf: ({ position }) => position,
    follow: (reader) => hub.followAll(reader),
    missed(place) {
      if (events.firstPosition() <= place + 1) return undefined;
      const last = events.lastPosition();
      return { place: last, text: `id: ${last}\nevent: behind\ndata: {}\n\n` };
    },
    isEnd: () => false,
    write: ({ position, reply, conversation, id, event, data }) =>
      `id: ${position}\ndata: {"reply":"${reply}","conversation":"${conversation}","event":{"id":${id},"event":"${event}","data":${data}}}\n\n`,
    aside: (say) => changes.follow(({ event, data }) => say(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`)),
    opening: ": open\n\n",
    pause: sse.pause,
    lastWord: ": the server is being stopped\n\n",
  };
  return stream(new Feed(hub, source, Math.min(after ?? last, last)), sse.type, {});
}

function stream<E extends StoredEvent>(feed: Feed<E>, type: string, more: Record<string, string>): Response {
  const body = new ReadableStream(feed, new ByteLengthQueuingStrategy({ highWaterMark: mostWaiting }));
  return new Response(body, { headers: { "content-type": type, ...headers, ...more } });
}

/** An answer whose lines of NDJSON are made one by one, and no more of them once the caller has gone. */
export function linesOf(request: Request, make: (signal: AbortSignal) => AsyncGenerator<unknown>): Response {
  const gone = new AbortController();
  request.signal.addEventListener("abort", () => gone.abort());
  const made = make(gone.signal);
  const utf8 = new TextEncoder();
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await made.next();
      if (done) controller.close();
      else controller.enqueue(utf8.encode(`${JSON.stringify(value)}\n`));
    },
    cancel: () => gone.abort(),
  });
  return new Response(body, { headers: { "content-type": ndjson.type, ...headers } });
}

/** The place that a reader names in `Last-Event-ID`; null where it names none that is one. */
export function lastEventId(request: Request): number | null {
  const given = request.headers.get("last-event-id");
  return given !== null && /^\d{1,15}$/.test(given) ? Number(given) : null;
}

/** What one of several streams gave: a part, or why it broke off. */
type Read =
  | { at: number; part: ReadableStreamReadResult<Uint8Array>; error: null }
  | { at: number; part: null; error: unknown };

/**
 * One answer of several streams, each part of one as it comes, and a last word after all of them.
 * @param left is called where its reader goes away before that
 */
export function together(streams: [Response, ...Response[]], last: () => string, left: () => void): Response {
  const utf8 = new TextEncoder();
  const readers = streams.map(({ body }) => (body as ReadableStream<Uint8Array>).getReader());
  // one that fails while another is waited for is heard of in its turn
  const next = (at: number): Promise<Read> =>
    (readers[at] as (typeof readers)[0]).read().then(
      (part) => ({ at, part, error: null }),
      (error: unknown) => ({ at, part: null, error }),
    );
  const letGo = (reason: unknown) => Promise.allSettled(readers.map((reader) => reader.cancel(reason)));
  const pending = new Map(readers.map((_, at) => [at, next(at)]));
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      while (pending.size > 0) {
        const { at, part, error } = await Promise.race(pending.values());
        if (part === null) {
          await letGo(error);
          throw error;
        }
        if (part.done) {
          pending.delete(at);
          continue;
        }
        pending.set(at, next(at));
        return controller.enqueue(part.value);
      }
      controller.enqueue(utf8.encode(last()));
      controller.close();
    },
    async cancel(reason) {
      left();
      await letGo(reason);
    },
  });
  return new Response(body, { headers: streams[0].headers });
}
