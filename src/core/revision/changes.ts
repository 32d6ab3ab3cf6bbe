import type { Content } from "./revision";

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
      "stop words": (settings.stop ?? []).map((word) => JSON.stringify(word)).join(", ") || none.list,
      memory: words.memory(memory),
      "time zone": timeZone ?? "UTC",
      "blocks that are off": off.join(", ") || none.list,
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

function listed(values: Record<string, string>): string {
  const each = Object.entries(values).map(([name, value]) => `${name} = ${value}`);
  return each.join(", ") || none.list;
}
