import { z } from "zod";
import { problemSchema } from "./replies";

/** How the server stands: whether it answers and can store what it is told, and why not. */
export const healthSchema = z.object({ ok: z.boolean(), version: z.string(), problem: problemSchema.nullable() });
