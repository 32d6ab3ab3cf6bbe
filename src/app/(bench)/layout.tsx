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
import { paletteOfDevice, paletteVariables, type ThemeName } from "@/ui/shared/palette";

export const metadata: Metadata = { title: { default: "Unruly Finch", template: "%s · Unruly Finch" } };

function themeNamed(name: string | undefined): ThemeName | undefined {
  return name === "dark" || name === "light" ? name : undefined;
}

export default async function BenchLayout({ children }: { children: ReactNode }) {
  const theme = themeNamed((await cookies()).get("finch_theme")?.value);
  const nonce = (await headers()).get("x-nonce") ?? "";
  return (
    <html
      lang="en"
      data-theme={theme ?? "device"}
      style={theme && { ...paletteVariables(theme), colorScheme: theme }}
      // a choice changes it in place
      suppressHydrationWarning
    >
      <body>
        {!theme && <style nonce={nonce}>{paletteOfDevice}</style>}
        <Providers initialTheme={theme} nonce={nonce}>
          <Bar />
          <View>{children}</View>
        </Providers>
      </body>
    </html>
  );
}
