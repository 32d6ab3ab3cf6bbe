import pino, { type Logger } from "pino";

/** The log: JSON lines, or plain ones where somebody reads them at a terminal. */
export function openLog(): Logger {
  return process.stdout.isTTY
    ? pino({}, { write: (line) => void process.stdout.write(plain(JSON.parse(line))) })
    : pino();
}

/** A log line as a person reads it; one for a dispatch says what went out and what came back. */
export function plain({ level, time, msg, pid: _pid, hostname: _hostname, ...rest }: Record<string, unknown>): string {
  const clock = new Date(Number(time)).toTimeString().slice(0, 8);
  if (msg !== "dispatch") {
    const more = Object.keys(rest).length > 0 ? ` ${JSON.stringify(rest)}` : "";
    return `${clock} ${Number(level) >= 50 ? "error: " : ""}${msg}${more}\n`;
  }
  const { app, origin, model, messages, input, output, firstTextMs, totalMs, end } = rest;
  const first = firstTextMs === undefined ? "no text" : `first text ${seconds(firstTextMs)}`;
  const tokens = input === undefined ? "no tokens" : `${input} tokens in, ${output} out`;
  return `${clock} ${app} (${origin}) ${model}: ${messages} messages, ${tokens}, ${first}, ${seconds(totalMs)} in all, ${end}\n`;
}

function seconds(milliseconds: unknown): string {
  return `${(Number(milliseconds) / 1000).toFixed(2)} s`;
}
