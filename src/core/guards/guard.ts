import { z } from "zod";
import { candidateSchema } from "../reply/events";
import { compile, TooLarge } from "./automaton";
import { BadPattern, longestPattern, readPattern } from "./pattern";
import { personalKinds } from "./personal";

/** Where a guard stands: before a message is sent to a model, or before a reply is shown to whoever reads it. */
export const guardPlaces = ["sent", "shown"] as const;
export type GuardPlace = (typeof guardPlaces)[number];

/** What a guard does with what it finds. */
export const guardActs = ["refuse", "mask", "mark"] as const;
export type GuardAct = (typeof guardActs)[number];

/** Characters of a guard's name, of what it says, and of what it puts in the place of what it masks. */
export const longestName = 60;
const longestSaying = 500;
/** Words that a guard may look for. */
export const mostWords = 200;
export const mostGuards = 30;

/** What a guard looks for. */
const looksForSchema = z.discriminatedUnion("kind", [
  /** More characters than these; of what a visitor says alone. */
  z.strictObject({ kind: z.literal("length"), most: z.int().min(1).max(1_000_000) }),
  /** Whole words and phrases, in any case and with any accents. */
  z.strictObject({
    kind: z.literal("words"),
    words: z.array(z.string().trim().min(1).max(100)).min(1).max(mostWords),
  }),
  /** A regular expression (ECMA-262); see pattern.ts. */
  z
    .strictObject({
      kind: z.literal("pattern"),
      pattern: z.string().min(1).max(longestPattern),
      ignoresCase: z.literal(true).optional(),
    })
    .superRefine(({ pattern }, context) => {
      const why = flawOfPattern(pattern);
      if (why) context.addIssue({ code: "custom", path: ["pattern"], message: why });
    }),
  z.strictObject({
    kind: z.literal("personal"),
    kinds: z.array(z.enum(personalKinds)).min(1).max(personalKinds.length),
  }),
  /** So many words of the app's own system prompt, one after the other; of what is shown alone. */
  z.strictObject({ kind: z.literal("prompt"), words: z.int().min(3).max(100) }),
  /** What a model says of the whole reply: it is let through where it meets the rubric; of what is shown alone. */
  z.strictObject({ kind: z.literal("judge"), rubric: z.string().trim().min(1).max(1_000), by: candidateSchema }),
]);
export type LooksFor = z.infer<typeof looksForSchema>;

/** A rule on what is sent or shown. */
export const guardSchema = z
  .strictObject({
    name: z.string().trim().min(1).max(longestName),
    on: z.enum(guardPlaces),
    looksFor: looksForSchema,
    does: z.enum(guardActs),
    /** What the app answers where it refuses. */
    says: z.string().trim().min(1).max(longestSaying).optional(),
    /** Texts that are let through, though they are found: an address of the app's own. */
    except: z.array(z.string().trim().min(1).max(200)).max(50).optional(),
    /** Whether what was masked before it was sent is put back where the reply has its mark. */
    putsBack: z.literal(true).optional(),
    isOff: z.literal(true).optional(),
  })
  .superRefine(({ on, looksFor: { kind }, does, putsBack }, context) => {
    const wrong = (path: string, message: string) => context.addIssue({ code: "custom", path: [path], message });
    if (kind === "length" && on === "shown") wrong("on", "is before showing: a length is looked at before sending");
    if ((kind === "prompt" || kind === "judge") && on === "sent")
      wrong("on", `is before sending: ${kind === "prompt" ? "the own prompt" : "a judge"} is for what is shown`);
    if ((kind === "length" || kind === "judge") && does === "mask")
      wrong("does", `is mask: a ${kind} has no place in the text that could be masked`);
    if (putsBack && (on === "shown" || does !== "mask"))
      wrong("putsBack", "is for what is masked before sending: nothing else can be put back");
  })
  .meta({ id: "Guard" });
export type Guard = z.infer<typeof guardSchema>;

export const guardsSchema = z
  .array(guardSchema)
  .max(mostGuards)
  .refine((guards) => new Set(guards.map(({ name }) => name)).size === guards.length, "names a guard twice");

/** What an app answers where a guard that has no words of its own refuses. */
export const usualSaying = "I can't help with that here.";

/** Why a pattern can't be looked for; undefined where it can. */
export function flawOfPattern(pattern: string): string | undefined {
  try {
    compile(readPattern(pattern, false));
    return undefined;
  } catch (error) {
    if (error instanceof BadPattern) return `can't be looked for: ${error.message}`;
    if (error instanceof TooLarge) return "can't be looked for: its repetitions make it too large";
    throw error;
  }
}

/** What a guard found and did: how often, in one text. What was found itself is not told. */
export const caughtSchema = z.object({
  guard: z.string(),
  on: z.enum(guardPlaces),
  does: z.enum(guardActs),
  /** A kind of personal data; else the kind of the guard. */
  what: z.enum(["length", "words", "pattern", "prompt", "judge", ...personalKinds]),
  times: z.int(),
});
export type Caught = z.infer<typeof caughtSchema>;

/** What was caught, those that are alike as one. */
export function addUp(all: readonly Caught[]): Caught[] {
  const sums = new Map<string, Caught>();
  for (const caught of all) {
    const key = JSON.stringify([caught.guard, caught.on, caught.does, caught.what]);
    const sum = sums.get(key);
    if (sum) sum.times += caught.times;
    else sums.set(key, { ...caught });
  }
  return [...sums.values()];
}
