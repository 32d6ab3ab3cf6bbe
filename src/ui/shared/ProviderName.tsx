import { useProviders } from "./queries";

/** The name that is shown of a provider, by its lasting one. */
export function useProviderName(): (slug: string) => string {
  const { data } = useProviders();
  return (slug) => data?.providers.find((each) => each.slug === slug)?.name ?? slug;
}

/** A provider as it is called now. @param of its lasting name, which stands where it is gone */
export function ProviderName({ of }: { of: string }) {
  return <>{useProviderName()(of)}</>;
}
