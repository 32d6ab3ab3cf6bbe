import { z } from "zod";
import { toolOutcomes } from "@/core/conversation/pieces";
import { bytesOf, type RecordedCall } from "@/core/recordings/recording";
import type { Tool } from "@/core/tools/tool";
import { parseJson } from "@/core/wire/json";
import type { Traffic } from "../exchange/traffic";
import type { ToolAnswer, Tools } from "../making/types";

const answerSchema = z.object({ outcome: z.enum(toolOutcomes), result: z.string().optional() });

/** Calls of tools that reach out of this process, as they were recorded, or recorded as they are made. */
export function recorded(call: Tools["call"], tools: readonly Tool[], traffic: Traffic | undefined): Tools["call"] {
  if (!traffic) return call;
  const reaching = new Set(
    tools.filter(({ answer: { by } }) => by === "address" || by === "command").map(({ name }) => name),
  );
  return async (asked, signal, waits) => {
    if (!reaching.has(asked.name)) return call(asked, signal, waits);
    // a tool is no provider's: it is known by its name and its arguments
    const known: RecordedCall = { provider: "", model: asked.name, method: "tool", path: "", body: asked.arguments };
    const found = traffic.find(known);
    if (found.kind === "none") return { outcome: "failed", result: found.problem.detail };
    if (found.kind === "played") {
      const text = found.answer.parts.map((part) => new TextDecoder().decode(bytesOf(part))).join("");
      const read = answerSchema.safeParse(parseJson(text));
      return read.success ? read.data : { outcome: "failed", result: "What is recorded of it can't be read." };
    }
    const began = performance.now();
    const answer: ToolAnswer = await call(asked, signal, waits);
    if (!signal.aborted)
      traffic.keep?.(known, {
        status: null,
        headers: {},
        parts: [[Math.round(performance.now() - began), JSON.stringify(answer)]],
        end: "whole",
      });
    return answer;
  };
}
