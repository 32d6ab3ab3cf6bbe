import { z } from "zod";
import { filterSchema } from "@/core/search/filter";
import { call, lines, text } from "./call";

/** Histories as files. */
export const exports = {
  history: call({
    method: "GET",
    path: "/api/bench/apps/{slug}/export",
    by: "bench",
    does: "Gives conversations as a file, as it is written: those that are named, or all that a filter finds.",
    query: filterSchema.extend({
      as: z.enum(["jsonl", "markdown", "csv"]),
      /** Their ids, with commas between. */
      ids: z.string().max(70_000).optional(),
    }),
    answers: { 200: [lines(z.unknown()), text("text/markdown"), text("text/csv")] },
    problems: ["not-found"],
  }),
};
