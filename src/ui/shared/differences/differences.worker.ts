import { differencesOf } from "@/core/comparing/differences";
import { differingIn } from "../markdown/differing";
import type { Question } from "./compare";

// answers each question, in order
self.addEventListener("message", ({ data }: MessageEvent<Question>) => {
  self.postMessage(data.kind === "words" ? differencesOf(data) : differingIn(data.before, data.after, data.isMarkdown));
});
