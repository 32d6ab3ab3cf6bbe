import type { Content } from "@/core/revision/content";
import { useProviders } from "../../shared/queries";
import type { DigestMaker } from "./WholeDocument";

/** The model by which a content speaks, which makes its digests; undefined where it is gone. */
export function useMaker({ provider, model }: Content): DigestMaker | undefined {
  const { data } = useProviders();
  return data?.providers.find(({ slug }) => slug === provider)?.models.find(({ name }) => name === model);
}
