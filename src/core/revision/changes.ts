import type { Content } from "./revision";

/** One setting that differs between two contents, in words. */
export interface Change {
  what: string;
  was: string;
  is: string;
}

/** What stands for a setting that is left to the provider, or for a list that is empty. */
const none = { setting: "its own", list: "none" };

/**
 * What differs between two contents beside the words of the prompt.
 * @param nameOf the name of a provider by its id
 */
export function changesBetween(before: Content, after: Content, nameOf: (provider: string) => string): Change[] {
  const said = (content: Content): Record<string, string> => {
    const { settings, fallbacks = [], memory, variables } = content;
    const setting = (value: number | undefined) => (value === undefined ? none.setting : String(value));
    return {
      provider: nameOf(content.provider),
      model: content.model,
      fallbacks: fallbacks.map(({ provider, model }) => `${model} on ${nameOf(provider)}`).join(", ") || none.list,
      temperature: setting(settings.temperature),
      "top-p": setting(settings.topP),
      "top-k": setting(settings.topK),
      "output limit": setting(settings.maxOutput),
      seed: setting(settings.seed),
      "stop words": (settings.stop ?? []).map((word) => JSON.stringify(word)).join(", ") || none.list,
      memory: memory.kind,
      variables:
        Object.entries(variables)
          .map(([name, value]) => `${name} = ${value}`)
          .join(", ") || none.list,
    };
  };
  const [was, is] = [said(before), said(after)];
  return Object.keys(was).flatMap((what) =>
    was[what] === is[what] ? [] : [{ what, was: was[what] ?? "", is: is[what] ?? "" }],
  );
}
