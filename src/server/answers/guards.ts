import type { CaughtPage, TextTried, Tried } from "@/contract/guards";
import type { Guard } from "@/core/guards/guard";
import { fillPrompt } from "@/core/revision/variables";
import type { StoredApp } from "../apps/app-store";
import type { HasReader } from "../archive/threads";
import { refuse } from "../ground/refusal";
import type { CaughtFilter, HasCaught } from "../guards/caught-store";

const onPage = 50;

/** Some of what the guards of an app caught, and how often. */
export function caughtAnswer(
  { caught }: HasCaught,
  { id }: StoredApp,
  { before, ...filter }: CaughtFilter & { before?: number },
): CaughtPage {
  const found = caught.page(id, filter, before, onPage + 1);
  const shown = found.slice(0, onPage);
  return {
    caught: shown,
    counts: caught.counts(id, filter),
    before: found.length > onPage ? (shown.at(-1)?.id ?? null) : null,
  };
}

/** What a rule would have found in stored conversations. @throws {Refusal} where a model would have to be asked */
export async function tryGuard(
  { reader }: HasReader,
  app: StoredApp,
  guard: Guard,
  before: string | null,
): Promise<Tried> {
  return reader.call("tryGuard", { app: app.id, guard, prompt: promptFor(app, guard), before });
}

/** What a rule finds in texts. @throws {Refusal} where a model would have to be asked */
export async function tryGuardOn(
  { reader }: HasReader,
  app: StoredApp,
  guard: Guard,
  texts: readonly string[],
): Promise<{ texts: TextTried[] }> {
  const all = await reader.call("guardPlaces", { guard, prompt: promptFor(app, guard), texts });
  return { texts: all.map((places) => ({ places })) };
}

/** The draft's system prompt, filled with what it is tried with. */
function promptFor({ draft }: StoredApp, { looksFor }: Guard): string {
  if (looksFor.kind === "judge")
    refuse("bad-request", "A judge can't be tried without asking its model.", {
      advice: "Try its rubric in a check: meets “…”.",
    });
  return fillPrompt(draft, draft.samples ?? {}, Date.now()).text;
}
