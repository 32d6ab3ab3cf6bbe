import { redirect } from "next/navigation";
import { boot } from "@/server/boot";

export const dynamic = "force-dynamic";

/** Goes to the app that was used last; to where the first one is made; to where the first provider is wired. */
export default function Home() {
  const { apps, providers } = boot();
  const [last] = apps.all();
  if (last) redirect(`/apps/${last.slug}/build`);
  redirect(providers.all().length > 0 ? "/apps" : "/providers");
}
