import { factsIn } from "@/core/comparing/facts/facts";

/** A line in each language, read once, so that the first long text finds all at hand. */
const firstLines = [
  "The 9:40 costs four euros.",
  "Um 9 Uhr 40 für vier Euro.",
  "À 9 h 40 pour quatre euros.",
  "A las 9:40 por cuatro euros.",
  "9時40分、4ユーロです。",
];
for (const line of firstLines) factsIn(line);

// gives the facts of each text, in order
self.addEventListener("message", ({ data }: MessageEvent<string>) => {
  self.postMessage(factsIn(data));
});
