import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['@libsql/client', 'libsql', 'manifold-3d', 'occt-import-js', 'pino'],
  // `npm test` checks the types of everything before it builds.
  typescript: { ignoreBuildErrors: process.env.TYPES_CHECKED === '1' },
  devIndicators: false,
  // Nor is anything made small that travels nowhere: it takes half of the time of a build.
  experimental: { turbopackMinify: false, turbopackSourceMaps: false },
  poweredByHeader: false,
  // Pages and server are on one machine, or a proxy between them compresses: here it would only take time from the runs.
  compress: false,
};

export default config;
