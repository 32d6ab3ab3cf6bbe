import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@/ui/talk/talk.css";
import "@/ui/talk/row.css";
import "@/ui/talk/composer.css";
import "@/ui/talk/text.css";
import type { Metadata, Viewport } from "next";
import type { ReactNode } from "react";
import { titleOfPage } from "@/core/look/words";
import { styleOf } from "@/server/apps/style";
import { boot } from "@/server/boot";
import { colourVariables } from "@/ui/talk/dress";

type Params = Promise<{ slug: string }>;

export const viewport: Viewport = { width: "device-width", initialScale: 1, interactiveWidget: "resizes-content" };

export async function generateMetadata({ params }: { params: Params }): Promise<Metadata> {
  const { slug } = await params;
  const app = boot().apps.bySlug(slug);
  return app
    ? { title: titleOfPage(app.look, app.name), description: app.look.subtitle || `Ask ${app.name}.` }
    : { title: "Nothing here" };
}

/** The document of an app's page: its language, direction and colours, and the developer's style sheet after ours. */
export default async function TalkLayout({ children, params }: { children: ReactNode; params: Params }) {
  const { slug } = await params;
  const home = boot();
  const app = home.apps.bySlug(slug);
  const style = app && styleOf(home, app);
  const { language = "en", direction = "ltr", scheme = "visitor", density, rows, sides, avatars } = app?.look ?? {};
  return (
    <html
      lang={language}
      dir={direction}
      data-scheme={scheme}
      data-density={density}
      data-rows={rows}
      data-sides={sides}
      data-avatars={avatars}
      style={app && colourVariables(app.look)}
    >
      <body>
        {children}
        {style?.text && <link rel="stylesheet" href={`/api/apps/${slug}/style.css?v=${style.version}`} />}
      </body>
    </html>
  );
}
