import { speaks } from "@/core/provider/model";
import type { Sources } from "@/core/sources/sources";
import { useProviders } from "../../shared/queries";

/** A model that makes vectors: of a provider by its lasting name. */
export type VectorModel = NonNullable<Sources["meaning"]>;

/** The models that are said to make vectors; the one that is chosen among them, whatever is said of it. */
export function useMakers(chosen: VectorModel | undefined): (VectorModel & { label: string })[] {
  const { data } = useProviders();
  const makers = (data?.providers ?? []).flatMap(({ slug, name, models }) =>
    models
      .filter((model) => !speaks(model) || (chosen?.provider === slug && chosen.model === model.name))
      .map((model) => ({ provider: slug, model: model.name, label: `${model.name} on ${name}` })),
  );
  const isThere = makers.some(({ provider, model }) => provider === chosen?.provider && model === chosen.model);
  return chosen && !isThere ? [...makers, { ...chosen, label: `${chosen.model}, which is not there` }] : makers;
}
