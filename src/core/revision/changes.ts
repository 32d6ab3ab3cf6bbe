import { z } from "zod";
import { markOf } from "../context/mark";
import { filledSources } from "../sources/sources";
import { usualRounds, usualTogether } from "../tools/tool";
import { type Content, ordered, type Settings, settingsSchema } from "./content";

/** In what a reply was made apart from its revision. */
export const apartSchema = z.object({
  settings: settingsSchema,
  /** Whether its system prompt was another one. */
  prompt: z.literal(true).optional(),
});
export type Apart = z.infer<typeof apartSchema>;

/** In what a content that was changed for one reply is apart from what it was; undefined where in nothing but the model. */
export function apartFrom(before: Content, after: Content): Apart | undefined {
  const changed = Object.entries(after.settings).filter(
    ([name, value]) => ordered(value) !== ordered(before.settings[name as keyof Settings]),
  );
  const prompt = before.prompt === after.prompt ? undefined : (true as const);
  return changed.length > 0 || prompt ? { settings: Object.fromEntries(changed) as Settings, prompt } : undefined;
}

/** One setting that differs between two contents, in words. */
export interface Change {
  what: string;
  was: string;
  is: string;
}

/** What stands for a setting that is left to the provider, or for a list that is empty. */
const none = { setting: "its own", list: "none" };

/** How parts of a content are called where they are read. */
export interface Words {
  /** The name of a provider by its slug. */
  provider: (slug: string) => string;
  memory: (memory: Content["memory"]) => string;
}

/** What differs between two contents beside the words of the prompt. */
export function changesBetween(before: Content, after: Content, words: Words): Change[] {
  const said = (content: Content): Record<string, string> => {
    const { settings, fallbacks = [], memory, variables, samples = {}, off = [], opening = [], timeZone } = content;
    const { guards = [], tools = [], rounds = usualRounds, together = usualTogether } = content;
    const sources = filledSources(content.sources ?? { documents: [] });
    const setting = (value: number | undefined) => (value === undefined ? none.setting : String(value));
    return {
      provider: words.provider(content.provider),
      model: content.model,
      fallbacks:
        fallbacks.map(({ provider, model }) => `${model} on ${words.provider(provider)}`).join(", ") || none.list,
      temperature: setting(settings.temperature),
      "top-p": setting(settings.topP),
      "top-k": setting(settings.topK),
      "output limit": setting(settings.maxOutput),
      seed: setting(settings.seed),
      "settings of its own": listed(settings.own ?? {}),
      "stop words": (settings.stop ?? []).map((word) => JSON.stringify(word)).join(", ") || none.list,
      memory: words.memory(memory),
      documents:
        sources.documents.length === 0
          ? none.list
          : `${sources.documents.length} (${markOf(ordered(sources.documents))})`,
      "passages are found by": sources.query ? "the message made self-contained" : "the message",
      passages: `the ${sources.best} best, within ${sources.within} tokens, cut to ${sources.size} and ${sources.overlap} over, ${sources.as ? "with the message" : "in the prompt"}`,
      "where documents hold no answer": sources.beyond ? "may answer from elsewhere" : `says: ${sources.unknown}`,
      "words on passages": sources.words,
      "time zone": timeZone ?? "UTC",
      "blocks that are off": off.join(", ") || none.list,
      // two of one name that are declared or answered otherwise are told apart by what stands for the rest
      tools: tools.map((tool) => `${tool.name} (${markOf(ordered(tool))})`).join(", ") || none.list,
      guards: guards.map((guard) => `${guard.name} (${markOf(ordered(guard))})`).join(", ") || none.list,
      "schema of the reply": content.schema ? markOf(ordered(content.schema)) : none.list,
      "rounds of calls": String(rounds),
      "calls at once": String(together),
      opening: opening.map(({ visitor, app }) => `${visitor} → ${app}`).join("; ") || none.list,
      variables: listed(variables),
      samples: listed(samples),
    };
  };
  const [was, is] = [said(before), said(after)];
  return Object.keys(was).flatMap((what) =>
    was[what] === is[what] ? [] : [{ what, was: was[what] ?? "", is: is[what] ?? "" }],
  );
}

function listed(values: Record<string, string | number | boolean>): string {
  const each = Object.entries(values).map(([name, value]) => `${name} = ${value}`);
  return each.join(", ") || none.list;
}
