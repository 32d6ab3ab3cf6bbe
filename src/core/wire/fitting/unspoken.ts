import { parseShallow } from "../json";
import type { PastedAnswer } from "../pasted/answer";
import { leavesOf } from "./finding";
import { isCalled, lastName } from "./naming";

/** What is not spoken: sockets, streams of binary frames, and answers that have to be asked for again. */

/** Why an address can't be called, where it is one of a socket. */
export function socketIn(request: string): string | undefined {
  const [address] = /\bwss?:\/\/[^\s"'`]+/i.exec(request) ?? [];
  return (
    address &&
    `${address} is the address of a socket, and sockets are not spoken: see whether this API answers over HTTP too.`
  );
}

/** Why an answer can't be read, where it is of a kind that is not spoken. */
export function unspokenIn({ body, contentType, framing, frames }: PastedAnswer): string | undefined {
  if (
    /octet-stream|protobuf|vnd\.[\w.-]*eventstream|cbor|msgpack/i.test(contentType) &&
    !/event-stream/i.test(contentType)
  )
    return `The answer is a stream of binary frames (${contentType}), which is not spoken: see whether this API streams as text too.`;
  if (startsBinary(body))
    return "The answer begins like a stream of binary frames, which is not spoken: see whether this API streams as text too.";
  const document = framing === "json" ? parseShallow(frames[0]?.data ?? "") : undefined;
  const leaves = leavesOf(document);
  const waits = leaves.find(
    ({ steps, value }) =>
      isCalled(lastName(steps), /^(?:status|state|stage)$/) &&
      typeof value === "string" &&
      /^(?:queued|pending|processing|running|in_?progress|submitted|starting|accepted|waiting)$/i.test(value),
  );
  const isText = leaves.some(({ value }) => typeof value === "string" && /\s/.test(value.trim()) && value.length > 20);
  if (waits && !isText)
    return `The answer only says that the reply is under way (${String(waits.value)}): an API that is asked again and again for its answer is not spoken. See whether it answers at once, or streams, when it is asked otherwise.`;
  return undefined;
}

/** Whether a text begins with lengths between its parts, as a terminal or a text field shows them: signs that no text has. */
function startsBinary(body: string): boolean {
  const isOdd = (code: number) => (code < 32 && ![9, 10, 11, 12, 13, 27, 30].includes(code)) || code === 0xfffd;
  return [...body.slice(0, 120)].filter((sign) => isOdd(sign.charCodeAt(0))).length >= 3;
}
