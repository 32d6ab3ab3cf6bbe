"use client";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { ConfigProvider } from "antd";
import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from "react";
import { antdTheme } from "../shared/antd-theme";
import { KeyList } from "../shared/keys/KeyList";
import { paletteVariables, type ThemeName } from "../shared/palette";
import { benchStream, liveReplies } from "../shared/use-live-reply";

const year = 365 * 24 * 60 * 60;

const ThemeContext = createContext<{ theme: ThemeName; nonce: string; toggle: () => void }>({
  theme: "light",
  nonce: "",
  toggle: () => {},
});

/** The theme of the bench, how to change it (it is kept in a cookie), and the nonce that styles need. */
export function useTheme() {
  return useContext(ThemeContext);
}

const darkDevice = "(prefers-color-scheme: dark)";

function followDevice(listener: () => void): () => void {
  const query = matchMedia(darkDevice);
  query.addEventListener("change", listener);
  return () => query.removeEventListener("change", listener);
}

/** The theme that the device prefers. */
function useThemeOfDevice(): ThemeName {
  return useSyncExternalStore(
    followDevice,
    () => (matchMedia(darkDevice).matches ? "dark" : "light"),
    () => "light",
  );
}

/** What every view of the bench stands in: its theme, its data and its one stream. */
export function Providers({
  initialTheme,
  nonce,
  children,
}: {
  /** As it was chosen; undefined follows the device. */
  initialTheme: ThemeName | undefined;
  nonce: string;
  children: ReactNode;
}) {
  const [chosen, setChosen] = useState(initialTheme);
  const ofDevice = useThemeOfDevice();
  const theme = chosen ?? ofDevice;
  const [client] = useState(
    () =>
      new QueryClient({
        defaultOptions: {
          // the server is on this machine, whether there is a network or not
          queries: { networkMode: "always", retry: false, refetchOnWindowFocus: false, staleTime: 5_000 },
          mutations: { networkMode: "always" },
        },
      }),
  );
  useEffect(
    // at the first opening all else is being read just now
    () =>
      benchStream.open((isFirst) => {
        liveReplies.hearMissed();
        void client.invalidateQueries(isFirst ? { queryKey: ["line"] } : {});
      }),
    [client],
  );

  const toggle = () => {
    const next = theme === "light" ? "dark" : "light";
    document.cookie = `finch_theme=${next}; Path=/; Max-Age=${year}; SameSite=Lax`;
    const { documentElement: root } = document;
    root.dataset.theme = next;
    root.style.colorScheme = next;
    for (const [name, value] of Object.entries(paletteVariables(next))) root.style.setProperty(name, value);
    setChosen(next);
  };

  return (
    <ConfigProvider theme={antdTheme(theme)} csp={{ nonce }} wave={{ disabled: true }}>
      <ThemeContext value={{ theme, nonce, toggle }}>
        <QueryClientProvider client={client}>
          {children}
          <KeyList />
        </QueryClientProvider>
      </ThemeContext>
    </ConfigProvider>
  );
}
