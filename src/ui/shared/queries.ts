import { type QueryClient, useQuery } from "@tanstack/react-query";
import { appSchema, appsSchema } from "@/contract/apps";
import { benchLineSchema } from "@/contract/conversations";
import { offersSchema, type Provider, providersSchema, standingSchema } from "@/contract/providers";
import { call } from "./api";

/** What the bench reads from the server, each under one key. */
export const keys = {
  apps: ["apps"],
  app: (slug: string) => ["apps", slug],
  line: (conversation: string) => ["line", conversation],
  conversations: (slug: string) => ["conversations", slug],
  providers: ["providers"],
  standing: (provider: string) => ["standing", provider],
  offers: ["offers"],
  lastAnswer: (provider: string) => ["last answer", provider],
  fault: (provider: string) => ["fault", provider],
  dispatches: (reply: string) => ["dispatches", reply],
  preflight: (slug: string) => ["preflight", slug],
};

export function useApps() {
  return useQuery({ queryKey: keys.apps, queryFn: () => call("GET", "/api/bench/apps", appsSchema) });
}

export function useApp(slug: string) {
  return useQuery({ queryKey: keys.app(slug), queryFn: () => call("GET", `/api/bench/apps/${slug}`, appSchema) });
}

export function useProviders() {
  return useQuery({ queryKey: keys.providers, queryFn: () => call("GET", "/api/bench/providers", providersSchema) });
}

/** How a provider stands now, asked of itself. */
export function useStanding(provider: Provider) {
  return useQuery({
    queryKey: [...keys.standing(provider.id), provider.address, provider.credential, provider.profile],
    queryFn: () => call("GET", `/api/bench/providers/${provider.id}/standing`, standingSchema),
  });
}

/** Stand-ins that run here and are not wired. */
export function useOffers() {
  return useQuery({ queryKey: keys.offers, queryFn: () => call("GET", "/api/bench/offers", offersSchema) });
}

/** The last page of a conversation's line; nothing for a conversation that does not exist yet. */
export function useLine(conversation: string | null) {
  return useQuery({
    queryKey: keys.line(conversation ?? ""),
    queryFn: () => call("GET", `/api/bench/conversations/${conversation}`, benchLineSchema),
    enabled: conversation !== null,
  });
}

/** Reads a conversation and its list anew. */
export function refreshConversation(client: QueryClient, conversation: string): Promise<void> {
  void client.invalidateQueries({ queryKey: ["conversations"] });
  void client.invalidateQueries({ queryKey: keys.providers });
  return client.invalidateQueries({ queryKey: keys.line(conversation) });
}

/** The models of all providers that are switched on, as choices. */
export function modelChoices(providers: Provider[]) {
  return providers.flatMap((provider) =>
    provider.models.filter(({ isOn }) => isOn).map((model) => ({ provider, model })),
  );
}
