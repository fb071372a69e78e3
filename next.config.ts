import type { NextConfig } from "next";

const config: NextConfig = {
  poweredByHeader: false,
  reactStrictMode: true,
  // `./barnlamp test` runs the type check on everything, these files included.
  typescript: { ignoreBuildErrors: true },
  serverExternalPackages: ["pg", "pino", "nodemailer", "pg-copy-streams"],
  experimental: { optimizePackageImports: ["@chakra-ui/react"] },
  async headers() {
    return [
      {
        source: "/:path*",
        headers: [
          { key: "X-Content-Type-Options", value: "nosniff" },
          { key: "X-Frame-Options", value: "SAMEORIGIN" },
          { key: "Referrer-Policy", value: "same-origin" },
        ],
      },
    ];
  },
};

export default config;
