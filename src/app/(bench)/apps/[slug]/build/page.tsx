import { notFound, redirect } from "next/navigation";
import { boot } from "@/server/boot";
import { BuildView } from "@/ui/build/BuildView";

/** Build, on the conversation that the address names; without one, on the last, and `new` begins one. */
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
    const [last] = conversations.ofApp(app.id, { updatedAt: Number.MAX_SAFE_INTEGER, id: "" }, 1);
    redirect(`/apps/${slug}/build?conversation=${last?.id ?? "new"}`);
  }
  return <BuildView slug={slug} conversation={conversation === "new" ? null : conversation} />;
}
