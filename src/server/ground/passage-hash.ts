import { createHash } from "node:crypto";
import { textForVector } from "@/core/sources/meaning";

/** By what a passage's vector is known: the SHA-256 of what stands for the passage where that is made. */
export function hashOfPassage(text: string, headings: readonly string[]): string {
  return createHash("sha256").update(textForVector(text, headings)).digest("hex");
}
