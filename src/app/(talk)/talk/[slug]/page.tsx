import { notFound } from "next/navigation";
import { boot } from "@/server/boot";
import { type SampleName, samples } from "@/ui/talk/samples";
import { TalkPage } from "@/ui/talk/TalkPage";

interface Props {
  params: Promise<{ slug: string }>;
  searchParams: Promise<{ state?: string }>;
}

/** The visitors' page of an app; with `?state=` one of its states, without a call. */
export default async function Page({ params, searchParams }: Props) {
  const { slug } = await params;
  const { state = "" } = await searchParams;
  const app = boot().apps.bySlug(slug);
  if (!app?.access.page) notFound();
  const { style: _style, ...look } = app.look;
  const sample = Object.hasOwn(samples, state) ? samples[state as SampleName] : null;
  return <TalkPage app={{ slug, name: app.name }} look={look} isTrial={false} sample={sample} />;
}
