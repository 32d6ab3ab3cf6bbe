import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { ChecksView } from "@/ui/checks/ChecksView";

export const metadata: Metadata = { title: "Checks" };

/** Checks, on the run that the address names; without one, on the latest. */
export default async function ChecksPage({
  params,
  searchParams,
}: {
  params: Promise<{ slug: string }>;
  searchParams: Promise<{ run?: string; edit?: string; check?: string }>;
}) {
  const { slug } = await params;
  const { run, edit, check } = await searchParams;
  if (!boot().apps.bySlug(slug)) notFound();
  return <ChecksView key={slug} slug={slug} run={run} isEdited={edit !== undefined} check={check} />;
}
