import { z } from "zod";
import { problemSchema } from "@/core/problem/problem";
import { call, json } from "./call";

/** How the server stands: whether it answers and can store what it is told, and why not. */
const healthSchema = z.object({ ok: z.boolean(), version: z.string(), problem: problemSchema.nullable() });

export const health = call({
  method: "GET",
  path: "/api/health",
  by: "anyone",
  does: "Says whether the server answers and can store what it is told.",
  answers: { 200: json(healthSchema), 503: json(healthSchema) },
});
