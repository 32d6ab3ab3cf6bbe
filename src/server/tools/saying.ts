import type { SaidToCall } from "@/contract/replies";
import { longestResult } from "@/core/tools/tool";
import { refuse } from "../ground/refusal";
import type { HasToolMeans } from "./answering";
import type { WaitsFor } from "./open-calls";

/** To what whoever says something may say it. */
const mayAnswer = {
  visitor: new Set<WaitsFor>(["leave", "caller"]),
  bench: new Set<WaitsFor>(["leave", "hand", "caller"]),
};

/**
 * Says something to a call of a tool that waits: that it may be made or not, or its answer.
 * @throws {Refusal} `conflict` where it waits no more, `bad-request` where it waits for something else
 */
export function sayToCall(
  { toolMeans: { openCalls } }: HasToolMeans,
  of: { reply: string; call: string },
  said: SaidToCall,
  by: keyof typeof mayAnswer,
): void {
  const waitsFor = openCalls.waitsFor(of);
  if (waitsFor === undefined || !mayAnswer[by].has(waitsFor))
    refuse("conflict", `The call ${of.call} waits for nothing that you could say.`, {
      advice: "Read its reply anew: it was answered, stopped, or waits for somebody else.",
    });
  if ("allow" in said) {
    if (waitsFor !== "leave") refuse("bad-request", `The call ${of.call} waits for an answer, and not for leave.`);
    openCalls.say(of, { kind: "leave", isAllowed: said.allow });
    return;
  }
  if (waitsFor === "leave")
    refuse("bad-request", `The call ${of.call} waits for leave: say {"allow": true} or {"allow": false}.`);
  if (said.answer.length > longestResult * 4)
    refuse("too-large", `An answer has up to ${longestResult} characters, and this one has ${said.answer.length}.`);
  openCalls.say(of, { kind: "answer", result: said.answer, hasFailed: said.failed === true });
}
