import { isLast } from "@/core/reply/events";
import type { PublishedEvent } from "../replies/event-store";
import type { ReplyHub } from "../replies/hub";

/** Milliseconds between two comments that keep a quiet stream open. */
const quiet = 15_000;
/** Bytes that may wait for a slow reader; one that is further behind is cut off, and may come back. */
const mostWaiting = 4 * 1024 * 1024;

/** Headers of every stream: nothing on the way may keep, change, compress or buffer it. */
const headers = { "cache-control": "no-store, no-transform", "x-accel-buffering": "no" };

/** How events are written. */
export interface Format {
  type: string;
  event(event: PublishedEvent): string;
  /** What is written when there was nothing to say for a while. */
  pause: string;
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

/** Server-sent events of all replies, for a tab of the bench; ids are positions. */
const bench: Format = {
  type: sse.type,
  event: ({ position, reply, conversation, id, event, data }) =>
    `id: ${position}\ndata: {"reply":"${reply}","conversation":"${conversation}","event":{"id":${id},"event":"${event}","data":${data}}}\n\n`,
  pause: sse.pause,
};

/** The events of one reply after one of its ids, until its end. */
export function replyStream(
  hub: ReplyHub,
  reply: string,
  after: number,
  format: Format,
  more: Record<string, string> = {},
): Response {
  return stream(format, more, (write, close) => {
    const { leave, goesOn } = hub.follow(reply, after, (event) => {
      write(format.event(event));
      if (isLast(event)) close();
    });
    if (!goesOn) close();
    return leave;
  });
}

/** The events of all replies: first those that `missed` gives, then those to come. */
export function benchStream(hub: ReplyHub, missed: Iterable<PublishedEvent>): Response {
  return stream(bench, {}, (write) => {
    write(": open\n\n");
    for (const event of missed) write(bench.event(event));
    return hub.followAll((event) => write(bench.event(event)));
  });
}

type Join = (write: (text: string) => void, close: () => void) => () => void;

function stream(format: Format, more: Record<string, string>, join: Join): Response {
  const utf8 = new TextEncoder();
  let leave = () => {};
  const body = new ReadableStream<Uint8Array>(
    {
      start(controller) {
        let open = true;
        let caughtUp = false;
        const close = () => {
          if (!open) return;
          open = false;
          clearInterval(pause);
          leave();
          controller.close();
        };
        const write = (text: string) => {
          if (!open) return;
          controller.enqueue(utf8.encode(text));
          if (caughtUp && (controller.desiredSize ?? 0) <= 0) close();
        };
        const pause = setInterval(() => write(format.pause), quiet);
        const left = join(write, close);
        caughtUp = true;
        leave = () => {
          open = false;
          clearInterval(pause);
          left();
        };
        if (!open) leave();
      },
      cancel: () => leave(),
    },
    new ByteLengthQueuingStrategy({ highWaterMark: mostWaiting }),
  );
  return new Response(body, { headers: { "content-type": format.type, ...headers, ...more } });
}
