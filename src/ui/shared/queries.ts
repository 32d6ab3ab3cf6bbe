import { type InfiniteData, type QueryClient, useQuery } from "@tanstack/react-query";
import { apps } from "@/contract/apps";
import { type BenchLine, benchConversations } from "@/contract/conversations";
import type { Provider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import { isUnderWay } from "@/core/reply/reply";
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
  serving: (slug: string) => ["serving", slug],
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

type Pages = InfiniteData<BenchLine, string | undefined>;

/** How often the end of a conversation was asked for. */
const asked = new Map<string, number>();

/**
 * Reads the end of a conversation's line, and patches what was read of it before. It never throws: what was
 * asked stays asked, and the line is read anew, which shows what is wrong.
 */
export async function readEnd(client: QueryClient, conversation: string): Promise<void> {
  void client.invalidateQueries({ queryKey: ["conversations"] });
  void client.invalidateQueries({ queryKey: keys.providers });
  const turn = (asked.get(conversation) ?? 0) + 1;
  asked.set(conversation, turn);
  let page: BenchLine;
  try {
    page = await server.send(benchConversations.read, { id: conversation });
  } catch {
    await client.invalidateQueries({ queryKey: keys.line(conversation) });
    return;
  }
  // what was asked for first may come last, and knows less
  if (asked.get(conversation) !== turn) return;
  client.setQueryData<Pages>(keys.line(conversation), (before) => patched(before, page));
}

/** Whether a reply was under way when the end of a conversation was read. */
export function wasReadUnderWay(client: QueryClient, conversation: string): boolean {
  const messages = client.getQueryData<Pages>(keys.line(conversation))?.pages[0]?.messages ?? [];
  return messages.some((message) => message.role === "app" && isUnderWay(message.state));
}

/** Pages with a newer end: what was read above it stays where the two overlap. */
function patched(before: Pages | undefined, end: BenchLine): Pages {
  const [last, ...others] = before?.pages ?? [];
  const at = last?.messages.findIndex(({ id }) => id === end.messages[0]?.id) ?? -1;
  if (!before || !last || at < 0) return { pages: [end], pageParams: [undefined] };
  const messages = [...last.messages.slice(0, at), ...end.messages];
  return { ...before, pages: [{ ...end, messages, before: last.before }, ...others] };
}

/** The models of all providers that are switched on, as choices. */
export function modelChoices(all: Provider[]) {
  return all.flatMap((provider) => provider.models.filter(({ isOn }) => isOn).map((model) => ({ provider, model })));
}
