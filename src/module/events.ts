import type { TalkEvent } from "./types";

/** The events of a stream (https://html.spec.whatwg.org/multipage/server-sent-events.html), as far as the app uses them. */
export async function* eventsOf(response: Response): AsyncGenerator<TalkEvent> {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  if (!reader) return;
  let rest = "";
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      const blocks = (rest + value).split("\n\n");
      rest = blocks.pop() ?? "";
      for (const block of blocks) {
        const fields = Object.fromEntries(block.split("\n").map((line) => line.split(/: (.*)/s, 2)));
        if (fields.data !== undefined)
          yield { id: +(fields.id ?? 0), event: fields.event ?? "", data: read(fields.data) };
      }
    }
  } finally {
    reader.cancel().catch(() => undefined);
  }
}

/** The data of an event; undefined where it is no JSON, as that of a kind which is not known here may be. */
function read(data: string): unknown {
  try {
    return JSON.parse(data);
  } catch {
    return undefined;
  }
}
