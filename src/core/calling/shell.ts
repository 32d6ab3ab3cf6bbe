import { addressOf, headersOf, type SampleCall } from "./call";

/** A program for a POSIX shell with curl. */
export function shellSample(call: SampleCall): string {
  const { way, body } = call;
  const url = addressOf(call);
  const parts = [url, ...Object.entries(headersOf(call)).map(([name, value]) => `-H ${quoted(`${name}: ${value}`)}`)];
  const asked = [...parts, `-d ${quoted(JSON.stringify(body))}`].join(" \\\n  ");
  if (way === "whole") return `curl -sS ${asked}\n`;
  if (way === "stream") return `curl -sSN ${asked}\n`;
  return `answer=$(curl -sS ${asked})
echo "$answer"
events=$(echo "$answer" | sed -n 's/.*"events":"\\([^"]*\\)".*/\\1/p')
[ -z "$events" ] || curl -sSN -H 'accept: text/event-stream' "$events"
`;
}

/** A word of a command line, whatever it holds. */
function quoted(text: string): string {
  return `'${text.replace(/'/g, "'\\''")}'`;
}
