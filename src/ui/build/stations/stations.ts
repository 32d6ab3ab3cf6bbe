import { memory } from "./Memory";
import { model } from "./Model";
import { prompt } from "./Prompt";
import { reply } from "./Reply";
import { sources } from "./Sources";
import type { Station } from "./station";
import { visitor } from "./Visitor";

/** The stations of the signal path, in order. */
export const stations: readonly Station[] = [visitor, prompt, memory, sources, model, reply];
