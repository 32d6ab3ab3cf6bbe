import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { HistoryView } from "@/ui/history/HistoryView";

export const metadata: Metadata = { title: "History" };

export default async function HistoryPage({ params }: { params: Promise<{ slug: string }> }) {
  const { slug } = await params;
  if (!boot().apps.bySlug(slug)) notFound();
  return <HistoryView slug={slug} />;
}
