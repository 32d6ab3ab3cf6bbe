import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { TalkPage } from "@/ui/talk/TalkPage";

/** The same page with the revision that is on trial. */
export default async function TrialPage({ params }: { params: Promise<{ slug: string }> }) {
  const { slug } = await params;
  const app = boot().apps.bySlug(slug);
  if (!app?.access.page || app.trialRevision === null) notFound();
  const { style: _style, ...look } = app.look;
  return <TalkPage app={{ slug, name: app.name }} look={look} isTrial sample={null} />;
}
