import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { CompareView } from "@/ui/compare/CompareView";
import { DuetView } from "@/ui/compare/duet/DuetView";
import { SetView } from "@/ui/compare/sets/SetView";

export const metadata: Metadata = { title: "Compare" };

/** Compare, on the set of messages, the duet or the comparison that the address names; without one, on a new one, which may go on from a message of a conversation. */
export default async function ComparePage({
  params,
  searchParams,
}: {
  params: Promise<{ slug: string }>;
  searchParams: Promise<{
    comparison?: string;
    set?: string;
    duet?: string;
    conversation?: string;
    after?: string;
    turn?: string;
  }>;
}) {
  const { slug } = await params;
  const { comparison, set, duet, conversation, after, turn } = await searchParams;
  if (!boot().apps.bySlug(slug)) notFound();
  if (set !== undefined) return <SetView key={slug} slug={slug} id={set === "new" ? undefined : set} />;
  if (duet !== undefined) return <DuetView key={slug} slug={slug} id={duet === "new" ? undefined : duet} />;
  const start =
    conversation !== undefined && after !== undefined ? { conversation, after, turn: Number(turn) || 1 } : undefined;
  return <CompareView key={slug} slug={slug} id={comparison} start={start} />;
}
