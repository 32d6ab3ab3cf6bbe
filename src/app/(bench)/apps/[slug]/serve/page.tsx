import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { ServeView } from "@/ui/serve/ServeView";

export const metadata: Metadata = { title: "Serve" };

export default async function ServePage({ params }: { params: Promise<{ slug: string }> }) {
  const { slug } = await params;
  if (!boot().apps.bySlug(slug)) notFound();
  return <ServeView key={slug} slug={slug} />;
}
