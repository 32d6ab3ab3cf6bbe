import type { NextConfig } from "next";

const config: NextConfig = {
  // streams must not be held back, and the bench is on the same machine
  compress: false,
  poweredByHeader: false,
  serverExternalPackages: ["better-sqlite3", "pino"],
  devIndicators: false,
  headers: async () => [
    { source: "/:path*", headers: [{ key: "x-content-type-options", value: "nosniff" }] },
    // a module of another origin is only loaded where it is shared; it holds nothing of anybody
    { source: "/talk/module.:kind(js|d.ts)", headers: [{ key: "access-control-allow-origin", value: "*" }] },
  ],
  // `npm run types` checks them, tests and scripts included
  typescript: { ignoreBuildErrors: true },
};

export default config;
