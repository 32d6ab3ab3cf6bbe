import { wrongArguments } from "@/core/tools/arguments";
import type { AskedCall } from "@/core/tools/calls";
import { type Arguments, filledCall } from "@/core/tools/filling";
import { withSecrets } from "@/core/tools/secrets";
import { longestResult, patience, type Tool, usualSeconds } from "@/core/tools/tool";
import { argumentsIn, NotArguments } from "@/core/wire/arguments";
import { excerpt } from "@/core/wire/json";
import { runCommand } from "../exchange/command";
import { guardedCall } from "../exchange/guarded";
import { guardedSchemas } from "../ground/schemas";
import type { ToolAnswer, Tools } from "../making/types";
import { Scrubber } from "../security/scrub";
import type { OpenCalls, Said, WaitsFor } from "./open-calls";
import type { Had } from "./secret-store";

/** Bytes of an answer that are read; of those, as much is kept as a model is told. */
const largestAnswer = 4 * 1024 * 1024;

/** What calls of tools need beside the tools. */
export interface ToolMeans {
  /** Whether commands may run: whoever starts this process says so. */
  runsCommands: boolean;
  /** A secret of an app, by the name that headers of its tools have for it. */
  secretOf(app: string, name: string): Had;
  /** Where people say what they have to. */
  openCalls: OpenCalls;
}

/** A parameter that has `toolMeans`. */
export interface HasToolMeans {
  toolMeans: ToolMeans;
}

/** For whom tools are called. */
export interface CalledFor {
  /** The app: its secrets go along. */
  app: string;
  /**
   * Where people are who are asked; where there is none nobody answers by hand, and of what asks first only that is called
   * which reaches nothing.
   */
  reply?: string;
  /** Whether whoever is answered can say that one may be called; so it is where nothing is said. */
  canAllow?: boolean;
}

/**
 * Answers the calls of an app's tools, each by its own means and within its own limits. It never throws.
 */
export function answering(
  tools: readonly Tool[],
  { toolMeans: of }: HasToolMeans,
  { app, reply, canAllow = true }: CalledFor,
): Tools["call"] {
  // how often a model asked for a tool as it can't be called
  const refused = new Map<string, number>();
  return async (asked, signal, waits) => {
    const tool = tools.find(({ name }) => name === asked.name);
    if (!tool) {
      const names = tools.map(({ name }) => name).join(", ");
      return { outcome: "refused", result: `There is no tool ${asked.name}; there are ${names}.` };
    }
    const wrong = wrongArguments(tool, asked.arguments, guardedSchemas);
    if (wrong !== undefined) {
      const times = (refused.get(tool.name) ?? 0) + 1;
      refused.set(tool.name, times);
      const advice = times === 1 ? "Call it once more with arguments that fit." : "Do not call it again.";
      return { outcome: "refused", result: `${wrong} ${advice}` };
    }
    const said = async (waitsFor: WaitsFor): Promise<Said | undefined> => {
      if (waitsFor === "leave" && !(canAllow && reply !== undefined))
        return { kind: "leave", isAllowed: isHarmless(tool) };
      if (reply === undefined) return undefined;
      const saying = of.openCalls.wait({ reply, call: asked.call, waitsFor }, patience * 1000, signal);
      waits(waitsFor);
      const answer = await saying;
      if (answer && !signal.aborted) waits(undefined);
      return answer;
    };
    if (tool.asks) {
      const leave = await said("leave");
      if (signal.aborted) return { outcome: "stopped" };
      if (leave?.kind !== "leave")
        return { outcome: "timed-out", result: `Nobody said whether ${tool.name} may be called.` };
      if (!leave.isAllowed)
        return { outcome: "declined", ...((reply === undefined || !canAllow) && { result: nobodyHere }) };
    }
    return cut(await answered(tool, asked, { ...of, secretOf: (name) => of.secretOf(app, name) }, said, signal));
  };
}

const nobodyHere = "It was not called: nobody is here who could allow it.";

/** Whether an answer of a tool comes from here, so that asking for it changes nothing anywhere. */
function isHarmless({ answer: { by } }: Tool): boolean {
  return by === "text" || by === "table";
}

/** The means for one app. */
type OwnMeans = Pick<ToolMeans, "runsCommands"> & { secretOf(name: string): Had };

async function answered(
  tool: Tool,
  asked: AskedCall,
  of: OwnMeans,
  said: (waitsFor: WaitsFor) => Promise<Said | undefined>,
  signal: AbortSignal,
): Promise<ToolAnswer> {
  const { answer } = tool;
  const given = asked.arguments as Arguments;
  switch (answer.by) {
    case "text":
      return { outcome: "answered", result: answer.text };
    case "table":
      return byTable(answer, given);
    case "address":
      return byAddress(tool, answer, given, of, signal);
    case "command":
      return byCommand(tool, answer.command, asked, of, signal);
    case "hand":
    case "caller": {
      const told = await said(answer.by);
      if (signal.aborted) return { outcome: "stopped" };
      if (told?.kind !== "answer") return { outcome: "timed-out", result: `Nobody answered ${tool.name}.` };
      return { outcome: told.hasFailed ? "failed" : "answered", result: told.result };
    }
  }
}

type By<K extends Tool["answer"]["by"]> = Extract<Tool["answer"], { by: K }>;

function byTable({ rows, otherwise }: By<"table">, given: Arguments): ToolAnswer {
  const row = rows.find(({ when }) =>
    Object.entries(when).every(([name, value]) => JSON.stringify(given[name]) === JSON.stringify(value)),
  );
  if (row) return { outcome: "answered", result: row.text };
  if (otherwise !== undefined) return { outcome: "answered", result: otherwise };
  return { outcome: "failed", result: "There is no answer for these arguments." };
}

/** Has an address answer, which is filled from the arguments. */
async function byAddress(
  { name, seconds = usualSeconds }: Tool,
  address: By<"address">,
  given: Arguments,
  { secretOf }: OwnMeans,
  signal: AbortSignal,
): Promise<ToolAnswer> {
  const call = filledCall(address, given);
  if (call.kind === "unfit") return { outcome: "refused", result: `${name} can't be called: ${call.why}.` };
  const { headers, secrets, missing } = filledHeaders(address.headers ?? [], secretOf);
  if (missing !== undefined) return { outcome: "failed", result: `${name} can't be called: ${missing}.` };
  const answer = await guardedCall({
    url: call.url,
    method: address.method,
    headers: call.body === undefined ? headers : { "content-type": "application/json", ...headers },
    body: call.body === undefined ? undefined : JSON.stringify(call.body),
    allowsThisMachine: address.allowsThisMachine,
    limit: seconds * 1000,
    mostBytes: largestAnswer,
    signal,
  });
  if (signal.aborted) return { outcome: "stopped" };
  if ("problem" in answer) {
    const { kind, detail } = answer.problem;
    if (kind === "timed-out") return { outcome: "timed-out", result: `${name} did not answer within ${seconds} s.` };
    return { outcome: "failed", result: Scrubber.text(detail, secrets) };
  }
  const text = Scrubber.text(answer.bytes.toString("utf8"), secrets);
  if (answer.status >= 200 && answer.status < 300) return { outcome: "answered", result: text };
  return { outcome: "failed", result: `${name} answered with ${answer.status}: ${text}` };
}

/** Headers with the secrets that they name, and these; or what is missing of them. */
function filledHeaders(
  named: NonNullable<By<"address">["headers"]>,
  secretOf: OwnMeans["secretOf"],
): { headers: Record<string, string>; secrets: string[]; missing: string | undefined } {
  const secrets: string[] = [];
  let missing: string | undefined;
  const filled = (secret: string): string => {
    const had = secretOf(secret);
    if ("value" in had) {
      secrets.push(had.value);
      return had.value;
    }
    missing ??= had.missing;
    return "";
  };
  const headers = Object.fromEntries(named.map(({ name, value }) => [name, withSecrets(value, filled)]));
  return { headers, secrets, missing };
}

/** Has a command answer: it gets `{"name", "arguments"}` as JSON on its input, and prints the answer. */
async function byCommand(
  { name, seconds = usualSeconds }: Tool,
  command: string,
  { arguments: given }: AskedCall,
  { runsCommands }: OwnMeans,
  signal: AbortSignal,
): Promise<ToolAnswer> {
  if (!runsCommands)
    return { outcome: "failed", result: `The command of ${name} is not run: commands are not switched on here.` };
  let args: ReturnType<typeof argumentsIn>;
  try {
    args = argumentsIn(command);
  } catch (error) {
    if (!(error instanceof NotArguments)) throw error;
    return { outcome: "failed", result: `The command of ${name} ${error.message}.` };
  }
  const ran = await runCommand(args, { name, arguments: given }, seconds * 1000, signal);
  if (signal.aborted) return { outcome: "stopped" };
  if (ran.kind === "done") return { outcome: "answered", result: ran.output };
  if (ran.why.startsWith("took longer"))
    return { outcome: "timed-out", result: `${name} did not answer within ${seconds} s.` };
  return { outcome: "failed", result: `The command of ${name} ${ran.why}. ${excerpt(ran.complaint.trim())}`.trim() };
}

/** An answer that is not longer than a model is told, and that says where it was cut. */
function cut({ outcome, result }: ToolAnswer): ToolAnswer {
  if (result === undefined || result.length <= longestResult) return { outcome, result };
  const kept = result.slice(0, longestResult);
  return { outcome, result: `${kept}\n[Cut after ${longestResult} characters, of ${result.length}.]` };
}
