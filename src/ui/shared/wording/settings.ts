import type { callerSettings } from "@/core/serving/access";

/** What settings are called, in every view. */
export const settingWords: Record<(typeof callerSettings)[number], string> = {
  temperature: "temperature",
  topP: "top-p",
  topK: "top-k",
  maxOutput: "output limit",
  stop: "stop words",
  seed: "seed",
};
