import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: ['@libsql/client', 'libsql', 'manifold-3d', 'occt-import-js'],
  devIndicators: false,
  poweredByHeader: false,
};

export default config;
