import { createParser } from "eventsource-parser";
import type { SampleCall } from "@/core/calling/call";
import { numberedEventSchema } from "@/core/reply/events";

/** A call that was sent from here, and what has come of it so far. Times are milliseconds after it was sent. */
export interface Sent {
  status?: number;
  type: string;
  headers: [name: string, value: string][];
  events: { id: string; event: string; data: string; at: number }[];
  firstTextMs?: number;
  /** The body, where it is no stream. */
  body: string;
  conversation?: string;
  /** Why there is no answer. */
  failure?: string;
  endedAt?: number;
}

/** Events that are shown of a stream. */
const most = 200;

/** Sends a call, and gives how it stands each time that something of it has come. */
export async function* sendCall(
  url: string,
  body: SampleCall["body"],
  headers: Record<string, string>,
  signal: AbortSignal,
): AsyncGenerator<Sent> {
  const began = performance.now();
  const since = () => performance.now() - began;
  let sent: Sent = { type: "", headers: [], events: [], body: "" };
  yield sent;
  try {
    const response = await fetch(url, { method: "POST", headers, body: JSON.stringify(body), signal });
    const type = response.headers.get("content-type") ?? "";
    sent = { ...sent, status: response.status, type, headers: [...response.headers] };
    yield sent;
    if (!type.startsWith("text/event-stream")) {
      const text = await response.text();
      const { conversation } = JSON.parse(text) as { conversation?: string };
      yield { ...sent, body: JSON.stringify(JSON.parse(text), null, 2), conversation, endedAt: since() };
      return;
    }
    const parser = createParser({
      onEvent: ({ id = "", event = "", data }) => {
        const at = since();
        if (event === "text") sent.firstTextMs ??= at;
        const read = numberedEventSchema.safeParse({ id: Number(id), event, data: JSON.parse(data) });
        if (read.success && read.data.event === "reply") sent.conversation = read.data.data.conversation;
        if (sent.events.length < most) sent = { ...sent, events: [...sent.events, { id, event, data, at }] };
      },
    });
    const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
    for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
      parser.feed(part.value);
      yield sent;
    }
    yield { ...sent, endedAt: since() };
  } catch (error) {
    const failure = signal.aborted ? "It was left before its end; the reply goes on." : "The server does not answer.";
    if (!signal.aborted && !(error instanceof TypeError)) throw error;
    yield { ...sent, failure, endedAt: since() };
  }
}
