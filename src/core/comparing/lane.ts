import { z } from "zod";

/** Lanes that a comparison may have, and has at least. */
export const mostLanes = 6;
export const fewestLanes = 2;

/** What the content of a lane was chosen as, or changed from: the live revision, the draft, or a revision by its number. */
export const laneBaseSchema = z.union([z.literal("live"), z.literal("draft"), z.int().min(1)]);
export type LaneBase = z.infer<typeof laneBaseSchema>;
