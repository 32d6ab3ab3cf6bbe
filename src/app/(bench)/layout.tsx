import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/bricolage-grotesque/wght.css";
import "@fontsource-variable/jetbrains-mono/wght.css";
import "@/ui/shared/global.css";
import type { Metadata } from "next";
import { cookies, headers } from "next/headers";
import type { ReactNode } from "react";
import { Bar } from "@/ui/frame/Bar";
import { Providers } from "@/ui/frame/Providers";
import { View } from "@/ui/frame/View";
import { paletteVariables } from "@/ui/shared/palette";

export const metadata: Metadata = { title: { default: "Unruly Finch", template: "%s · Unruly Finch" } };

export default async function BenchLayout({ children }: { children: ReactNode }) {
  const theme = (await cookies()).get("finch_theme")?.value === "dark" ? "dark" : "light";
  const nonce = (await headers()).get("x-nonce") ?? "";
  return (
    <html lang="en" data-theme={theme} style={paletteVariables(theme)}>
      <body>
        <Providers initialTheme={theme} nonce={nonce}>
          <Bar />
          <View>{children}</View>
        </Providers>
      </body>
    </html>
  );
}
