import { notFound } from "next/navigation";
import { documentsOnPage } from "@/core/serving/sent";
import { needsOf, picturesOnPage } from "@/server/apps/app";
import { boot } from "@/server/boot";
import { badgeFor } from "@/server/entrance/badge";
import { asksIn } from "@/ui/talk/asks";
import { type SampleName, samples } from "@/ui/talk/samples";
import { TalkPage } from "@/ui/talk/TalkPage";

interface Props {
  params: Promise<{ slug: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

/**
 * The visitors' page of an app; with `?state=` one of its states, without a call, and with names of variables values for
 * what its prompt leaves to callers.
 */
export default async function Page({ params, searchParams }: Props) {
  const { slug } = await params;
  const query = await searchParams;
  const state = String(query.state ?? "");
  const home = boot();
  const app = home.apps.bySlug(slug);
  if (!app?.access.page) notFound();
  const { style: _style, ...look } = app.look;
  const sample = Object.hasOwn(samples, state) ? samples[state as SampleName] : null;
  const badge = badgeFor(home, app, "page", Date.now());
  return (
    <TalkPage
      app={{ slug, name: app.name }}
      look={look}
      badge={badge}
      pictures={sample ? null : picturesOnPage(home, app, home.apps.revision(app.id, app.liveRevision)?.content)}
      documents={sample ? null : documentsOnPage(app.access)}
      asks={asksIn(needsOf(home, app).asks, query)}
      isPreview={false}
      sample={sample}
    />
  );
}
