import { notFound } from "next/navigation";
import { askedOfCalls } from "@/core/revision/variables";
import { documentsOnPage } from "@/core/serving/sent";
import { picturesOnPage } from "@/server/apps/app";
import { boot } from "@/server/boot";
import { badgeFor } from "@/server/entrance/badge";
import { asksIn } from "@/ui/talk/asks";
import { TalkPage } from "@/ui/talk/TalkPage";

interface Props {
  params: Promise<{ slug: string }>;
  searchParams: Promise<Record<string, string | string[] | undefined>>;
}

/** The visitors' page of an app's preview. */
export default async function PreviewPage({ params, searchParams }: Props) {
  const { slug } = await params;
  const home = boot();
  const app = home.apps.bySlug(slug);
  if (!app?.access.page || app.previewRevision === null) notFound();
  const { style: _style, ...look } = app.look;
  const content = home.apps.revision(app.id, app.previewRevision)?.content;
  const asks = asksIn(content ? askedOfCalls(content) : [], await searchParams);
  const badge = badgeFor(home, app, "page", Date.now());
  return (
    <TalkPage
      app={{ slug, name: app.name }}
      look={look}
      badge={badge}
      asks={asks}
      pictures={picturesOnPage(home, app, content)}
      documents={documentsOnPage(app.access)}
      isPreview
      sample={null}
    />
  );
}
