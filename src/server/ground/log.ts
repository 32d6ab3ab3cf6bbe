import pino, { type DestinationStream, type Logger } from "pino";

/** Errors that stand behind an error, one behind the other, which are told at most. */
const mostCauses = 5;

/**
 * The log: JSON lines, or plain ones where somebody reads them at a terminal.
 * @param hide takes the secrets out of a text that an error brings along
 */
export function openLog(hide: (text: string) => string, to?: DestinationStream): Logger {
  const options = { serializers: { error: (error: unknown) => told(error, hide) } };
  if (to) return pino(options, to);
  return process.stdout.isTTY
    ? pino(options, { write: (line) => void process.stdout.write(plain(JSON.parse(line))) })
    : pino(options);
}

/** An error as the log has it: what it says, where it was thrown, and what stands behind it. */
interface ToldError {
  message: string;
  code?: string;
  stack?: string;
  cause?: ToldError;
}

function told(error: unknown, hide: (text: string) => string, depth = 0): ToldError {
  // a name and a password in an address are nobody's business, whether they are known here or not
  const safe = (text: string) => hide(text).replace(/(\w:\/\/)[^\s/@]+@/g, "$1");
  if (!(error instanceof Error)) return { message: safe(String(error)) };
  const { code } = error as NodeJS.ErrnoException;
  return {
    message: safe(error.message),
    ...(code === undefined ? {} : { code: String(code) }),
    ...(error.stack === undefined ? {} : { stack: safe(error.stack) }),
    ...(error.cause === undefined || depth >= mostCauses ? {} : { cause: told(error.cause, hide, depth + 1) }),
  };
}

/** A log line as a person reads it; one for a dispatch says what went out and what came back. */
export function plain({ level, time, msg, pid: _pid, hostname: _hostname, ...rest }: Record<string, unknown>): string {
  const clock = new Date(Number(time)).toTimeString().slice(0, 8);
  if (msg !== "dispatch") {
    const { error, ...others } = rest;
    const more = Object.keys(others).length > 0 ? ` ${JSON.stringify(others)}` : "";
    const behind = error === undefined ? "" : `${tree(error as ToldError)}\n`;
    return `${clock} ${Number(level) >= 50 ? "error: " : ""}${msg}${more}\n${behind}`;
  }
  const { app, origin, model, messages, input, output, firstTextMs, totalMs, end } = rest;
  const first = firstTextMs === undefined ? "no text" : `first text ${seconds(firstTextMs)}`;
  const tokens = input === undefined ? "no tokens" : `${input} tokens in, ${output} out`;
  return `${clock} ${app} (${origin}) ${model}: ${messages} messages, ${tokens}, ${first}, ${seconds(totalMs)} in all, ${end}\n`;
}

function tree({ message, stack, cause }: ToldError): string {
  return `  ${stack ?? message}${cause ? `\n  because of ${tree(cause).trimStart()}` : ""}`;
}

function seconds(milliseconds: unknown): string {
  return `${(Number(milliseconds) / 1000).toFixed(2)} s`;
}

/** A parameter that has `log`. */
export interface HasLog {
  log: Logger;
}
