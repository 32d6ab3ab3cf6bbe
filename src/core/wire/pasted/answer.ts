import type { Frame } from "../framing/framing";
import { type FramingName, framingIn, framingOf } from "../framing/framings";
import { headersIn } from "./http";

/** An answer as it was pasted. */
export interface PastedAnswer {
  framing: FramingName;
  contentType: string;
  /** By their names in small letters; none where the body alone was pasted. */
  headers: Record<string, string>;
  body: string;
  /** Its events; one for an answer that is whole. */
  frames: Frame[];
}

/**
 * Reads a pasted answer: its framing and its events. HTTP headers before it are heeded, as `curl -i` and `curl -v` print
 * them: of several heads, such as `100 Continue` or a redirect, the last counts.
 */
export function answerIn(pasted: string): PastedAnswer {
  const { head, body } = headAndBody(withoutTalk(pasted).replace(/^\uFEFF/, ""));
  const headers = Object.fromEntries(headersIn(head).map(([name, value]) => [name.toLowerCase(), value]));
  const framing = framingIn(body);
  const contentType = headers["content-type"] || framingOf(framing).usualType;
  return { framing, contentType, headers, body, frames: framesOf(framing, body) };
}

/** What `curl -v` says beside the answer taken out: its own notes, and the request; the head of the answer stays. */
function withoutTalk(pasted: string): string {
  if (!/^[*<>] /m.test(pasted) || !/^< HTTP\//m.test(pasted)) return pasted;
  const lines = pasted.split(/\r?\n/);
  const talk = /^(?:[*>](?: |$)|[{}] \[\d+ bytes data\])/;
  return lines
    .filter((line) => !talk.test(line))
    .map((line) => (/^<(?: |$)/.test(line) ? line.slice(2) : line))
    .join("\n");
}

/** A head of HTTP with a status line, or one whose first lines are headers that an answer has. */
const statusHead = /^\s*HTTP\/[\d.]+ \d{3}[^\n]*\n(?:[^\n]*\S[^\n]*\n)*\s*?(?:\r?\n|$)/;
const bareHead = /^(?:[\w-]+:[ \t][^\n]*\n)*content-type:[^\n]*\n(?:[\w-]+:[ \t][^\n]*\n)*\r?\n/i;

function headAndBody(text: string): { head: string[]; body: string } {
  let head: string[] = [];
  let body = text;
  for (let found = statusHead.exec(body); found; found = statusHead.exec(body)) {
    head = found[0].split(/\r?\n/).slice(1);
    body = body.slice(found[0].length);
  }
  const bare = head.length === 0 ? bareHead.exec(body) : null;
  if (!bare) return { head, body };
  return { head: bare[0].split(/\r?\n/), body: body.slice(bare[0].length) };
}

function framesOf(name: FramingName, body: string): Frame[] {
  if (name === "json") return [{ name: "", data: body }];
  const cutter = framingOf(name).cutter?.();
  // what was pasted may have lost the empty line at its end
  return cutter ? [...cutter.feed(`${body}\n\n`), ...cutter.close()] : [];
}
