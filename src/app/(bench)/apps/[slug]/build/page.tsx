import { notFound, redirect } from "next/navigation";
import { boot } from "@/server/boot";
import { BuildView } from "@/ui/build/BuildView";

/** Build, on the conversation that the address names; without one, on the last that was begun here, and `new` begins one. */
export default async function BuildPage({
  params,
  searchParams,
}: {
  params: Promise<{ slug: string }>;
  searchParams: Promise<{ conversation?: string }>;
}) {
  const { slug } = await params;
  const { conversation } = await searchParams;
  const { apps, conversations } = boot();
  const app = apps.bySlug(slug) ?? notFound();
  if (conversation === undefined) {
    redirect(`/apps/${slug}/build?conversation=${conversations.lastOfBench(app.id) ?? "new"}`);
  }
  return <BuildView slug={slug} />;
}
