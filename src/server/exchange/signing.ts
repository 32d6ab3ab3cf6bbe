import { type Problem, problem } from "@/core/problem/problem";
import { argumentsIn, NotArguments } from "@/core/wire/arguments";
import { excerpt, parseJson } from "@/core/wire/json";
import { Scrubber } from "../security/scrub";
import { runCommand } from "./command";
import type { Connection } from "./connection";
import { bodyText, type Outgoing } from "./outgoing";

/** Milliseconds that a command may take to sign a request. */
const limit = 10_000;

/**
 * A request with the headers that a command of the developer's signs it with. The command is given the finished request
 * as JSON on its input, with its key in it: `{"method", "url", "headers", "body"}`. It prints headers, as lines of
 * `name: value` or as one JSON object of texts.
 * @param runsCommands whether commands that providers name may run: whoever starts this process says so
 * @param secrets what must stand in no problem
 */
export async function signed(
  outgoing: Outgoing,
  { name, signing }: Pick<Connection, "name" | "signing">,
  runsCommands: boolean,
  secrets: readonly string[],
  signal: AbortSignal,
): Promise<{ outgoing: Outgoing; problem?: undefined } | { problem: Problem }> {
  if (signing === null) return { outgoing };
  const failed = (
    why: string,
    advice = "Run it in a terminal, in the folder that the server was started in, and put it right.",
  ) => ({
    problem: problem("misconfigured", `The command that signs calls of ${name} ${why}.`, { advice }),
  });
  if (!runsCommands)
    return failed("is not run", "Start with FINCH_COMMANDS=on, if commands that providers name may run here.");
  let args: ReturnType<typeof argumentsIn>;
  try {
    args = argumentsIn(signing);
  } catch (error) {
    if (!(error instanceof NotArguments)) throw error;
    return failed(error.message, "Put it right beside the credentials of the provider.");
  }
  const { method, url, headers } = outgoing;
  const body = await bodyText(outgoing.body);
  const ran = await runCommand(args, { method, url, headers, body }, limit, signal);
  if (ran.kind === "failed") {
    const complaint = excerpt(Scrubber.text(ran.complaint.trim(), secrets));
    return failed(complaint ? `${ran.why}: ${complaint}` : ran.why);
  }
  const added = printedHeaders(ran.output);
  if (!added) return failed("printed no headers");
  // what it signed is what goes out, to the byte
  return { outgoing: { ...outgoing, body, headers: { ...headers, ...added } } };
}

/** Headers as a command prints them; undefined where it printed none. */
export function printedHeaders(output: string): Record<string, string> | undefined {
  const document = parseJson(output);
  const pairs =
    typeof document === "object" && document !== null && !Array.isArray(document)
      ? Object.entries(document).filter((each): each is [string, string] => typeof each[1] === "string")
      : output.split(/\r?\n/).flatMap((line): [string, string][] => {
          const [, name, value] = /^([\w!#$%&'*+.^`|~-]+):\s*(.*?)\s*$/.exec(line) ?? [];
          return name === undefined || value === undefined ? [] : [[name, value]];
        });
  if (pairs.length === 0) return undefined;
  return Object.fromEntries(pairs.map(([name, value]) => [name.toLowerCase(), value]));
}
