import { useQuery } from "@tanstack/react-query";
import { apps } from "@/contract/apps";
import type { Provider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import { speaks } from "@/core/provider/model";
import { server } from "./api";

/** What the bench reads from the server, each under one key. */
export const keys = {
  apps: ["apps"],
  app: (slug: string) => ["apps", slug],
  line: (conversation: string) => ["line", conversation],
  conversations: (slug: string) => ["conversations", slug],
  providers: ["providers"],
  standing: (provider: string) => ["standing", provider],
  offers: ["offers"],
  cases: (provider: string) => ["cases", provider] as const,
  lastAnswer: (provider: string) => ["last answer", provider],
  fault: (provider: string) => ["fault", provider],
  dispatches: (reply: string) => ["dispatches", reply],
  preflight: (slug: string) => ["preflight", slug],
  recordings: (slug: string) => ["recordings", slug],
  secrets: (slug: string) => ["secrets", slug],
  serving: (slug: string) => ["serving", slug],
  comparisons: (slug: string) => ["comparisons", slug],
  comparison: (id: string) => ["comparison", id],
  sets: (slug: string) => ["sets", slug],
  set: (id: string) => ["set", id],
  setAhead: (slug: string) => ["set ahead", slug],
  duets: (slug: string) => ["duets", slug],
  duet: (id: string) => ["duet", id],
  scripts: (slug: string) => ["check scripts", slug],
  runs: (slug: string) => ["runs", slug],
  run: (id: string) => ["run", id],
  judges: (slug: string) => ["judges", slug],
  trial: (id: string) => ["trial", id],
  ahead: (slug: string) => ["run ahead", slug],
  sources: (slug: string) => ["sources", slug],
  retrieval: (slug: string) => ["retrieval", slug],
  found: (slug: string) => ["found", slug],
  document: (source: string) => ["document", source],
  caught: (slug: string) => ["caught", slug],
  jobs: ["jobs"],
  calls: (slug: string) => ["calls", slug],
};

export function useApps() {
  return useQuery({ queryKey: keys.apps, queryFn: () => server.send(apps.list, {}) });
}

export function useApp(slug: string) {
  return useQuery({ queryKey: keys.app(slug), queryFn: () => server.send(apps.read, { slug }) });
}

export function useProviders() {
  return useQuery({ queryKey: keys.providers, queryFn: () => server.send(providers.list, {}) });
}

/** How a provider stands now, asked of itself. */
export function useStanding(provider: Provider) {
  return useQuery({
    queryKey: [...keys.standing(provider.id), provider.address, provider.credential, provider.profile],
    queryFn: () => server.send(providers.standing, { id: provider.id }),
  });
}

/** Stand-ins that run here and are not wired. */
export function useOffers() {
  return useQuery({ queryKey: keys.offers, queryFn: () => server.send(providers.offers, {}) });
}

/** The models of all providers that are switched on, as choices. */
export function modelChoices(all: readonly Provider[]) {
  return all.flatMap((provider) =>
    provider.models.filter((model) => model.isOn && speaks(model)).map((model) => ({ provider, model })),
  );
}
