import type { Memory } from "@/core/context/policies/policies";
import type { StandInName, World } from "./world";

/** The model of each stand-in that a memory is tried on. */
export const models: Record<StandInName, string> = {
  Reedbed: "reed-swift",
  Saltpan: "pan-clear",
  Tidegate: "tide-wide",
  Lantern: "lantern-one",
  Bellhouse: "bell-plain",
};

/** The whole answer to a call. */
export interface Answer {
  status: number;
  reply: string;
  conversation: string;
  message: string;
  text: string;
  kind?: string;
  detail?: string;
  usage: { input: number };
}

/** An app that speaks through a stand-in. */
export async function appOn(world: World, standIn: StandInName, memory: Memory, name = "Memory"): Promise<string> {
  const provider = await world.wire(standIn);
  const settings = { maxOutput: 150 };
  return world.makeApp(name, { provider, model: models[standIn], settings, memory, prompt: "You are the desk." });
}

/** Asks as one caller, and waits for the whole answer. */
export async function ask(world: World, slug: string, body: object): Promise<Answer> {
  const response = await fetch(`${world.address}/api/apps/${slug}/replies`, {
    method: "POST",
    headers: { "finch-visitor": "ivo" },
    body: JSON.stringify(body),
  });
  return { ...((await response.json()) as Answer), status: response.status };
}
