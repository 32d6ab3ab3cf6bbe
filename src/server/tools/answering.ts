import { wrongArguments } from "@/core/tools/arguments";
import type { AskedCall } from "@/core/tools/calls";
import { longestResult, type Tool, usualSeconds } from "@/core/tools/tool";
import { guardedCall } from "../exchange/guarded";
import type { ToolAnswer } from "../making/types";

/** Bytes of an answer that are read; of those, as much is kept as a model is told. */
const largestAnswer = 4 * 1024 * 1024;

/** Answers the calls of an app's tools, each by its own means and within its own limits. It never throws. */
export function answering(tools: readonly Tool[]): (asked: AskedCall, signal: AbortSignal) => Promise<ToolAnswer> {
  return async (asked, signal) => {
    const tool = tools.find(({ name }) => name === asked.name);
    if (!tool) {
      const names = tools.map(({ name }) => name).join(", ");
      return { outcome: "refused", result: `There is no tool ${asked.name}; there are ${names}.` };
    }
    const wrong = wrongArguments(tool, asked.arguments);
    if (wrong !== undefined) return { outcome: "refused", result: wrong };
    const { answer } = tool;
    return answer.by === "text" ? { outcome: "answered", result: answer.text } : byAddress(tool, answer, asked, signal);
  };
}

type Address = Extract<Tool["answer"], { by: "address" }>;

/** Has an address answer, which gets the arguments as its query, or as its body. */
async function byAddress(
  { name, seconds = usualSeconds }: Tool,
  { method, url, allowsThisMachine }: Address,
  { arguments: given }: AskedCall,
  signal: AbortSignal,
): Promise<ToolAnswer> {
  const isQuery = method === "GET";
  const answer = await guardedCall({
    url: isQuery ? withQuery(url, given as Record<string, unknown>) : url,
    method,
    headers: isQuery ? undefined : { "content-type": "application/json" },
    body: isQuery ? undefined : JSON.stringify(given),
    allowsThisMachine,
    limit: seconds * 1000,
    mostBytes: largestAnswer,
    signal,
  });
  if (signal.aborted) return { outcome: "stopped" };
  if ("problem" in answer) {
    const { kind, detail } = answer.problem;
    if (kind === "timed-out") return { outcome: "timed-out", result: `${name} did not answer within ${seconds} s.` };
    return { outcome: "failed", result: detail };
  }
  const text = cut(answer.bytes.toString("utf8"));
  if (answer.status >= 200 && answer.status < 300) return { outcome: "answered", result: text };
  return { outcome: "failed", result: `${name} answered with ${answer.status}: ${text}` };
}

function withQuery(url: string, given: Record<string, unknown>): string {
  const whole = new URL(url);
  for (const [name, value] of Object.entries(given))
    whole.searchParams.set(name, typeof value === "string" ? value : JSON.stringify(value));
  return whole.href;
}

/** An answer that is not longer than a model is told, and that says where it was cut. */
function cut(text: string): string {
  if (text.length <= longestResult) return text;
  return `${text.slice(0, longestResult)}\n[Cut after ${longestResult} characters, of ${text.length}.]`;
}
