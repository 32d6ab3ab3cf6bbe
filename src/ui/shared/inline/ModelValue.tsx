import type { Provider } from "@/contract/providers";
import { modelChoices } from "../queries";
import { ChoiceValue } from "./ChoiceValue";

/** A model by its name, and its provider by the name that lasts. */
export interface ModelChoice {
  provider: string;
  model: string;
}

const nothing = "";

/**
 * A choice of one of the models that are offered, made where it stands in a sentence.
 * @param none what stands for no model, where that can be chosen
 * @param except a model that is no choice here
 */
export function ModelValue({
  label,
  providers,
  value,
  none,
  except,
  onChange,
}: {
  label: string;
  providers: readonly Provider[];
  value: ModelChoice | undefined;
  none?: string;
  except?: ModelChoice;
  onChange: (choice: ModelChoice | undefined) => void;
}) {
  const offered = modelChoices(providers).map(({ provider, model }) => ({
    value: written({ provider: provider.slug, model: model.name }),
    label: `${model.name} on ${provider.name}`,
  }));
  const chosen = value ? written(value) : nothing;
  const isOffered = !value || offered.some((each) => each.value === chosen);
  const options = [
    ...(none === undefined ? [] : [{ value: nothing, label: none }]),
    ...(isOffered ? [] : [{ value: chosen, label: `${value.model} (not offered)` }]),
    ...offered.filter((each) => !except || each.value !== written(except)),
  ];
  return <ChoiceValue label={label} value={chosen} options={options} onChange={(next) => onChange(read(next))} />;
}

/** A choice as the value of an option; the name of a provider holds no space, that of a model may hold anything. */
function written({ provider, model }: ModelChoice): string {
  return `${provider} ${model}`;
}

function read(value: string): ModelChoice | undefined {
  const space = value.indexOf(" ");
  return space < 0 ? undefined : { provider: value.slice(0, space), model: value.slice(space + 1) };
}
